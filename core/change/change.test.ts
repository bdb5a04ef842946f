import { describe, expect, test } from 'vitest';
import type { Action, ChangeCalls, ChangeRule } from '#core/dataset/change/schema.ts';
import { lostNeeds, withoutLost } from '#core/dataset/lost.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { wrongAsTyped } from './as-typed.ts';
import { callsProblem } from './calls.ts';
import { actionProblem, offersOf } from './offers.ts';
import { madeFrom } from './read-back.ts';
import { areComparable, brokenRules, rulesAbout, ruleWords } from './rules.ts';
import { isSameValue } from './same.ts';
import { checkValue, valuesOf } from './values.ts';
import { confirmWords } from './words.ts';
import { keyColumn, writableColumn } from './writable.ts';

const columns = [
  { column: 'id', name: 'id', type: 'integer' as const, filled: true, made: true },
  { column: 'title', name: 'title', type: 'text' as const, filled: true, longest: 10 },
  { column: 'status', name: 'status', type: 'text' as const },
  { column: 'cost', name: 'cost', type: 'decimal' as const },
  { column: 'done_at', name: 'done_at', type: 'instant' as const },
  { column: 'vessel_id', name: 'vessel_id', type: 'integer' as const },
];
const start: DataSet['fields'] = [
  ...columns.map(({ name, type }) => ({ name, type })),
  { name: 'vessel', type: 'text' },
];
const setDone: Action = {
  name: 'done',
  label: 'Set done',
  way: 'update',
  sets: [
    { field: 'status', to: { kind: 'value', value: 'done' } },
    { field: 'done_at', to: { kind: 'now' } },
  ],
};
const orders: DataSet = {
  version: 2,
  source: '00000000-0000-4000-8000-000000000001',
  request: {
    kind: 'table',
    schema: 'public',
    table: 'work_orders',
    columns,
    lookUps: [
      {
        as: 'vessel_id',
        by: 'vessel_id',
        schema: 'public',
        table: 'vessels',
        key: 'id',
        take: [{ column: 'name', name: 'vessel', type: 'text' }],
      },
    ],
  },
  inputs: [],
  fields: start.map((field) =>
    field.name === 'status'
      ? {
          ...field,
          states: [
            { value: 'open', word: 'Open', tone: 'waiting' as const },
            { value: 'done', word: 'Finished', tone: 'settled' as const },
          ],
        }
      : field,
  ),
  key: 'id',
  title: 'title',
  noun: { one: 'work order', many: 'work orders' },
  measures: [],
  changes: { inPlace: ['title'], actions: [setDone] },
};
const world = new Map();
const doing = {
  clock: { now: new Date('2026-11-29T12:00:00Z'), zone: 'Europe/London' },
  person: { name: 'Una' },
};
const target = (name: string) => ({
  field: orders.fields.find((field) => field.name === name) ?? { name, type: 'text' as const },
  column: columns.find((column) => column.name === name) ?? {},
});

test('a field can be changed where it is a column of its own table, whatever steps have called it since', () => {
  expect(writableColumn(orders, 'title', world)).toMatchObject({ ok: true, column: { column: 'title' } });
  expect(writableColumn(orders, 'vessel', world)).toEqual({
    ok: false,
    why: 'it is looked up in another table',
  });
  expect(writableColumn(orders, 'id', world)).toEqual({
    ok: false,
    why: 'the source works it out by itself',
  });
  // What the source makes identifies a record all the same.
  expect(keyColumn(orders, world)).toMatchObject({ ok: true, column: { column: 'id' } });
  const stepped: DataSet = {
    ...orders,
    start,
    steps: [
      { kind: 'rename', id: 'a', field: 'title', as: 'what' },
      { kind: 'type', id: 'b', field: 'cost', to: 'integer', misfit: 'blank' },
      { kind: 'where', id: 'c', condition: { field: 'status', test: { op: 'filled' } } },
    ],
  };
  expect(writableColumn(stepped, 'what', world)).toMatchObject({ ok: true, column: { column: 'title' } });
  expect(writableColumn(stepped, 'cost', world)).toEqual({ ok: false, why: 'step 2 works it out' });
  expect(writableColumn(stepped, 'title', world).ok).toBe(false);
  const grouped: DataSet = {
    ...stepped,
    steps: [{ kind: 'summarise', id: 'd', by: [{ field: 'status', as: 'status' }], measures: [] }],
  };
  expect(writableColumn(grouped, 'status', world)).toEqual({
    ok: false,
    why: 'step 1 makes other records of those of the source',
  });
});

test('a pane offers what its data set lets, and nothing that cannot be done', () => {
  const pane = { actions: ['done', 'gone'], inPlace: ['title', 'cost'] };
  expect(offersOf(pane, orders, world)).toEqual({
    actions: [{ name: 'done', label: 'Set done', way: 'update', most: 10_000 }],
    inPlace: ['title'],
    needed: ['title'],
  });
  const { key: _, ...keyless } = orders;
  expect(offersOf(pane, keyless, world)).toEqual({ actions: [], inPlace: [], needed: [] });
  const { changes: __, ...closed } = orders;
  expect(offersOf(pane, closed, world)).toEqual({ actions: [], inPlace: [], needed: [] });
});

test.each([
  ['title', '', 'it cannot be blank'],
  ['title', 'a title that is long', 'it has 20 characters, and 10 are the most'],
  ['status', 'sunk', '“sunk” is none of open and done'],
  ['cost', '12,5', '“12,5” is not a number; write decimals behind a point'],
  ['cost', 'ten', '“ten” is not a number'],
  ['done_at', 'yesterday', '“yesterday” is not a moment such as 2026-11-23T06:40:00Z'],
])('%s cannot be “%s”, and that is said before it is sent', (name, given, why) => {
  expect(checkValue(target(name), given, 'Europe/London')).toEqual({ ok: false, why });
});

test('a moment without a zone is one of the desk’s, and blank is blank', () => {
  expect(checkValue(target('done_at'), '2026-07-01T09:30', 'Europe/London')).toEqual({
    ok: true,
    value: '2026-07-01T08:30:00.000Z',
  });
  expect(checkValue(target('cost'), ' ', 'Europe/London')).toEqual({ ok: true, value: null });
});

test('an action sets what it says, and asks for the rest: what is wrong is said by field', () => {
  expect(valuesOf(setDone, { status: 'open' }, target, doing)).toEqual({
    ok: true,
    // What it says itself cannot be said otherwise.
    values: { status: 'done', done_at: '2026-11-29T12:00:00.000Z' },
  });
  const action: Pick<Action, 'sets'> = {
    sets: [
      { field: 'title', to: { kind: 'ask', required: true } },
      { field: 'cost', to: { kind: 'ask' } },
    ],
  };
  expect(valuesOf(action, { cost: 'x' }, target, doing)).toEqual({
    ok: false,
    wrong: { title: 'it is needed', cost: '“x” is not a number' },
  });
});

test('before it is done a sentence says what will be', () => {
  expect(confirmWords(setDone, 14, orders, 'UTC')).toBe(
    'On 14 work orders, status becomes “Finished” and done at becomes this moment.',
  );
});

test('one value is the same however it was written', () => {
  expect(isSameValue('decimal', '10.50', '10.5')).toBe(true);
  expect(isSameValue('integer', '9007199254740993', '9007199254740992')).toBe(false);
  expect(isSameValue('instant', '2026-11-02T03:04:05.500000Z', '2026-11-02T03:04:05.5Z')).toBe(true);
  expect(isSameValue('instant', '2026-11-02T03:04:05.000Z', '2026-11-02T03:04:05Z')).toBe(true);
  expect(isSameValue('text', '10.50', '10.5')).toBe(false);
  expect(isSameValue('decimal', null, '0')).toBe(false);
});

test('what a service answers with can be changed once it is said how it is told, and in those ways alone', () => {
  const request: DataSet['request'] = {
    kind: 'http',
    call: { method: 'GET', path: 'orders', query: [], headers: [] },
    format: 'auto',
    records: '$[*]',
    paging: { kind: 'none' },
    columns,
  };
  const calls: ChangeCalls = {
    read: { path: 'orders/{id}', record: '$' },
    update: { method: 'PATCH', path: 'orders/{id}' },
  };
  const untold: DataSet = { ...orders, request };
  const told: DataSet = { ...untold, changes: { calls, inPlace: ['cost'], actions: [setDone] } };
  expect(writableColumn(untold, 'cost', new Map())).toEqual({
    ok: false,
    why: 'nothing says yet how the service is told of changes',
  });
  expect(writableColumn(told, 'cost', new Map())).toMatchObject({ ok: true });
  expect(actionProblem(setDone, told, new Map())).toBe(null);
  expect(actionProblem({ ...setDone, way: 'remove', sets: [] }, told, new Map())).toBe(
    'nothing says by which call the service is told to remove a record',
  );
  expect(callsProblem(calls, told)).toBe(null);
  expect(callsProblem({ ...calls, read: { path: 'orders/{number}', record: '$' } }, told)).toBe(
    'reading one record: nothing in a record is called number',
  );
  expect(callsProblem({ ...calls, remove: { method: 'DELETE', path: '//elsewhere' } }, told)).toContain(
    'removing one: the path is after the source’s own address',
  );
});

test('what became of a change is told by the records as they are now', () => {
  const record = { key: '1', before: { cost: '1.50' }, after: { cost: '2.00' } };
  const typeOf = () => 'decimal' as const;
  const now = (cost: string | null) => new Map(cost === null ? [] : [['1', { cost }]]);
  expect(madeFrom([record], now('2'), typeOf)).toBe(true);
  expect(madeFrom([record], now('1.5'), typeOf)).toBe(false);
  expect(madeFrom([record], now('3'), typeOf)).toBe(null);
  expect(madeFrom([record], now(null), typeOf)).toBe(null);
  expect(madeFrom([{ key: '1', before: null, after: { cost: '2' } }], now(null), typeOf)).toBe(false);
  expect(madeFrom([{ key: '1', before: { cost: '2' }, after: null }], now(null), typeOf)).toBe(true);
});

describe('rules between fields', () => {
  const fields: DataSet['fields'] = [
    { name: 'left_at', type: 'instant', label: 'Left' },
    { name: 'landed_at', type: 'instant', label: 'Landed' },
    { name: 'booked', type: 'integer', label: 'Booked' },
    { name: 'seats', type: 'decimal', label: 'Seats' },
    { name: 'from', type: 'text', label: 'From' },
    { name: 'to', type: 'text', label: 'To' },
  ];
  const landed: ChangeRule = { field: 'landed_at', is: 'above', than: 'left_at' };
  const seats: ChangeRule = { field: 'booked', is: 'atMost', than: 'seats' };
  const elsewhere: ChangeRule = { field: 'to', is: 'differs', than: 'from' };

  test.each<[string, ChangeRule, Record<string, string | null>, boolean]>([
    [
      'the same moment, written otherwise',
      landed,
      { left_at: '2026-11-01T08:00:00Z', landed_at: '2026-11-01T08:00:00.000Z' },
      true,
    ],
    ['a moment after', landed, { left_at: '2026-11-01T08:00:00Z', landed_at: '2026-11-01T08:00:01Z' }, false],
    ['what is blank', landed, { left_at: '2026-11-01T08:00:00Z', landed_at: null }, false],
    ['what is not there', landed, { landed_at: '2026-11-01T08:00:00Z' }, false],
    ['numbers by their worth', seats, { booked: '9', seats: '10.0' }, false],
    ['numbers to the last digit', seats, { booked: '9007199254740993', seats: '9007199254740992' }, true],
    ['the same place', elsewhere, { from: 'Norrick', to: 'Norrick' }, true],
    ['another place', elsewhere, { from: 'Norrick', to: 'Skerry' }, false],
  ])('%s', (_, rule, record, isBroken) => {
    expect(brokenRules([rule], record, fields)).toEqual(isBroken ? [rule] : []);
  });

  test('are said in words, of times and of numbers', () => {
    expect([landed, seats, elsewhere].map((rule) => ruleWords(rule, fields))).toEqual([
      'Landed must be after left',
      'Booked must be at most seats',
      'To must be other than from',
    ]);
  });

  test('are those of a change that reaches either of their fields', () => {
    expect(rulesAbout([landed, seats], ['left_at'])).toEqual([landed]);
    expect(rulesAbout(undefined, ['left_at'])).toEqual([]);
  });

  test('compare numbers with numbers and moments with moments only', () => {
    const [left, , booked, places, from] = fields as [Field, Field, Field, Field, Field];
    expect(areComparable(booked, places)).toBe(true);
    expect(areComparable(left, booked)).toBe(false);
    expect(areComparable(from, from)).toBe(false);
    expect(areComparable({ name: 'a', type: 'nested' }, { name: 'b', type: 'nested' })).toBe(false);
  });

  test('are told while somebody types, with what no field takes; what is blank may yet be filled in', () => {
    const query = (name: string) => ({
      field: fields.find((field) => field.name === name) as Field,
      label: name,
      isRequired: true,
      choices: null,
      value: null,
      longest: null,
    });
    const look = {
      way: 'update' as const,
      fields: [query('landed_at'), query('booked')],
      records: [
        { key: '1', title: 'One', saw: {}, beside: { left_at: '2026-11-01T08:00:00Z', seats: '80' } },
        { key: '2', title: 'Two', saw: {}, beside: { left_at: '2026-11-02T08:00:00Z', seats: '40' } },
      ],
      rules: [landed, seats].map((rule) => ({ rule, words: ruleWords(rule, fields), fields })),
    };
    expect(wrongAsTyped(look, {}, 'UTC')).toEqual({});
    expect(wrongAsTyped(look, { booked: 'many', landed_at: '2026-11-01T09:00:00Z' }, 'UTC')).toEqual({
      booked: expect.stringContaining('many'),
      landed_at: 'Landed must be after left',
    });
    expect(wrongAsTyped(look, { booked: '60', landed_at: '2026-11-03T09:00:00Z' }, 'UTC')).toEqual({
      booked: 'Booked must be at most seats',
    });
  });
});

test('a data set that loses a field loses the rules about it, and keeps how its service is called', () => {
  const calls: ChangeCalls = { read: { path: '/orders/{id}', record: '$' } };
  const rules: ChangeRule[] = [{ field: 'cost', is: 'atLeast', than: 'vessel_id' }];
  const whole: DataSet = { ...orders, changes: { calls, rules, inPlace: [], actions: [] } };
  expect(lostNeeds(whole)).toEqual([]);
  const less = { ...whole, fields: whole.fields.filter(({ name }) => name !== 'cost') };
  expect(lostNeeds(less)).toEqual([
    'A rule between fields needs the field “cost”, which is not there any more',
  ]);
  expect(withoutLost(less).changes).toMatchObject({ calls, rules: [] });
});

test('a day or a time that is none is named by itself', () => {
  const moment = { field: { name: 'done_at', type: 'instant' as const }, column: {} };
  const why = (given: string) => {
    const checked = checkValue(moment, given, 'Europe/London');
    return checked.ok ? null : checked.why;
  };
  expect(why('2026-11-23T06:40')).toBeNull();
  expect(why('2026-11-23T06:40:00Z')).toBeNull();
  expect(why('the day afterT06:40')).toBe('“the day after” is not a day such as 23 Nov 2026');
  expect(why('2026-11-23Tnoon')).toBe('“noon” is not a time such as 06:40');
  expect(why('soon')).toContain('“soon” is not a moment');
});
