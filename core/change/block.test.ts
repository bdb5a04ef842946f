import { describe, expect, test } from 'vitest';
import type { Action } from '#core/dataset/change/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { type BlockBasis, compareBlock, headsOf, rowsOf } from './block.ts';

const fields: Field[] = [
  { name: 'code', type: 'text', label: 'Berth' },
  { name: 'depth_m', type: 'decimal', label: 'Depth', unit: 'm' },
  { name: 'crew', type: 'integer' },
  { name: 'lit', type: 'boolean' },
  { name: 'checked_on', type: 'date' },
  { name: 'opens_at', type: 'instant' },
  { name: 'closes_at', type: 'instant' },
  { name: 'remark', type: 'text' },
  { name: 'state', type: 'text', states: [{ value: 'o', word: 'Open', tone: 'settled' }] },
  { name: 'keeper', type: 'integer' },
];
const rest = fields.map(({ name }) => name).filter((name) => name !== 'code');
const seen = {
  code: 'B1',
  depth_m: '4.5',
  crew: '1200',
  lit: 'true',
  checked_on: '2026-11-20',
  opens_at: '2026-11-20T09:30:00.000Z',
  closes_at: '2026-11-20T12:00:00Z',
  remark: null,
  state: 'o',
  keeper: '7',
};

function basis(more: Partial<BlockBasis> = {}): BlockBasis {
  return {
    dataSet: { noun: { one: 'berth', many: 'berths' }, fields, key: 'code' },
    rules: [{ field: 'closes_at', is: 'above', than: 'opens_at' }],
    changeable: rest,
    adding: null,
    areNew: false,
    recordsOf: new Map([['B1', [{ key: 'B1', title: 'B1', saw: seen, beside: {} }]]]),
    identity: 'code',
    targetOf: (name) => ({
      field: fields.find((field) => field.name === name) ?? { name, type: 'text' },
      column: {},
    }),
    choicesOf: (name) =>
      name === 'keeper'
        ? [
            { value: '7', words: 'Una' },
            { value: '8', words: 'Magnus' },
            { value: '9', words: 'Magnus' },
          ]
        : [],
    doing: {
      clock: { now: new Date('2026-11-23T12:00:00Z'), zone: 'America/St_Johns' },
      person: { name: 'Una' },
    },
    ...more,
  };
}
/** What one record would be given, by what a block says of one field. */
const given = (field: string, text: string): unknown => {
  const rows = rowsOf([['B1', text]], ['code', field], 'code');
  const { changes, same, unusable } = compareBlock(rows, basis());
  return changes[0]?.values[field] ?? (same === 1 ? 'as it is' : (unusable[0]?.why ?? null));
};

describe('what a spreadsheet writes', () => {
  test.each([
    ['depth_m', '4.50', 'as it is'],
    ['depth_m', '1,204.75', '1204.75'],
    ['depth_m', '4,5', 'Depth: “4,5” is not a number; write decimals behind a point'],
    ['crew', '1,200', 'as it is'],
    ['crew', '12.5', 'Crew: “12.5” is not a whole number'],
    ['lit', 'TRUE', 'as it is'],
    ['lit', 'no', 'false'],
    ['checked_on', '20 Nov 2026', 'as it is'],
    ['checked_on', '21/11/2026', '2026-11-21'],
    ['checked_on', '31/11/2026', 'Checked on: “31/11/2026” is not a date such as 2026-11-23'],
    // Clocks of the desk show half past nine in UTC as six.
    ['opens_at', '20 Nov 2026 06:00', 'as it is'],
    ['opens_at', '20/11/2026, 7:15', '2026-11-20T10:45:00.000Z'],
    ['opens_at', '2026-11-20T09:45:00Z', '2026-11-20T09:45:00Z'],
    ['opens_at', '20 Nov 2026 16:00', 'Closes at must be after opens at'],
    ['state', 'open', 'as it is'],
    ['state', 'shut', 'State: “shut” is none of o'],
    ['keeper', 'una', 'as it is'],
    ['keeper', '8', '8'],
    ['keeper', 'Magnus', 'Keeper: “Magnus” is not a whole number'],
    // As files are written here, lest a spreadsheet runs it.
    ['remark', "'=cable", '=cable'],
    ['remark', "'twas dark", "'twas dark"],
  ])('%s of “%s” is %s', (field, text, value) => {
    expect(given(field, text)).toBe(value);
  });
});

test('heads are told by label, by name and with their unit; what is none is said', () => {
  const heads = [' BERTH', 'Depth (m)', 'checked  on', 'Tide', '', 'lit'];
  expect(headsOf(heads, fields)).toEqual({
    fields: ['code', 'depth_m', 'checked_on', null, null, 'lit'],
    unknown: ['Tide'],
    twice: null,
  });
  expect(headsOf(['Depth m', 'depth_m'], fields).twice).toBe('depth_m');
});

describe('a row without a record', () => {
  const adding = (asksForKey: boolean): Action => ({
    name: 'add',
    label: 'Add a berth',
    way: 'insert',
    sets: [
      ...(asksForKey ? [{ field: 'code', to: { kind: 'ask' as const, required: true } }] : []),
      { field: 'crew', to: { kind: 'ask', required: true } },
      { field: 'opens_at', to: { kind: 'now' } },
    ],
  });
  const rows = rowsOf(
    [
      ['B9', '3'],
      ['', '4'],
      ['', ''],
    ],
    ['code', 'crew'],
    'code',
  );
  const why = (more: Partial<BlockBasis>): string[] => {
    const { additions, unusable } = compareBlock(rows, basis(more));
    return [...additions.map((values) => JSON.stringify(values)), ...unusable.map((row) => row.why)];
  };

  test('is a new one only where one can be added, and its key is blank or given by people', () => {
    expect(why({})).toEqual(['this table shows no such berth', 'nothing says which berth it is']);
    expect(why({ adding: adding(false) })).toEqual(['{"crew":"4"}', 'this table shows no such berth']);
    expect(why({ adding: adding(true) })).toEqual(['{"code":"B9","crew":"3"}', 'Berth: it is needed']);
  });

  test('is never one where records are told by their name', () => {
    expect(why({ adding: adding(true), identity: 'remark' })).toEqual([
      'this table shows no such berth',
      'nothing says which berth it is',
    ]);
  });
});

test('a value that is wrong at its source already is nobody’s to mend where the row says the same', () => {
  const saw = { ...seen, crew: 'n/a' };
  const recordsOf = new Map([['B1', [{ key: 'B1', title: 'B1', saw, beside: {} }]]]);
  const rows = rowsOf([['B1', 'n/a', 'no']], ['code', 'crew', 'lit'], 'code');
  expect(compareBlock(rows, basis({ recordsOf })).changes).toMatchObject([{ values: { lit: 'false' } }]);
});
