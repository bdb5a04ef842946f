import { describe, expect, test } from 'vitest';
import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { planSteps, relationWith } from '#core/plan/relation.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { laterSteps } from '#core/sql/steps.ts';
import type { Field } from '#core/value/field/field.ts';
import { carryOn } from './follow-names.ts';
import { shape } from './kinds.ts';
import type { Step } from './schema.ts';
import { linkParts } from './template.ts';

const fields: Field[] = [
  { name: 'id', type: 'integer', label: 'Number' },
  { name: 'gate', type: 'text', states: [{ value: 'NRK-1', word: 'Norrick', tone: 'settled' }] },
  { name: 'took', type: 'text' },
  { name: 'fare', type: 'decimal' },
  { name: 'share', type: 'float' },
  { name: 'at', type: 'instant' },
  { name: 'day', type: 'date' },
  { name: 'parts', type: 'nested' },
];
const gates = '00000000-0000-4000-8000-000000000001';
const gateSet: DataSet = {
  version: 2,
  source: gates,
  request: { kind: 'upload', columns: [] },
  inputs: [],
  fields: [
    { name: 'code', type: 'text' },
    { name: 'terminal', type: 'text' },
    { name: 'gate', type: 'integer' },
  ],
  key: 'code',
  noun: { one: 'gate', many: 'gates' },
  measures: [],
  keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } },
  subsets: [{ name: 'open', label: 'open gates', where: { field: 'terminal', test: { op: 'filled' } } }],
};
const world = new Map([[gates, gateSet]]);
const step = (told: object): Step => ({ id: 's', ...told }) as Step;
const problem = (told: object): string | null => shape(fields, [step(told)], world).problems[0] ?? null;
const lookUp = (over: object): object => ({
  kind: 'lookUp',
  from: { dataSet: gates },
  on: [{ field: 'gate', other: 'code' }],
  mode: 'one',
  take: [{ field: 'terminal', as: 'terminal' }],
  order: [],
  ...over,
});
const derive = (making: object): object => ({ kind: 'derive', name: 'made', making });

describe('a step that cannot be done says why', () => {
  test.each([
    [{ kind: 'where', condition: { field: 'gone', test: { op: 'blank' } } }, 'there is no field “gone”'],
    [{ kind: 'rename', field: 'id', as: 'gate' }, 'there is a field “gate” already'],
    [{ kind: 'rename', field: 'id', as: 'id' }, 'it is called so already'],
    [{ kind: 'fields', keep: ['id', 'id'] }, 'a field is named twice'],
    [{ kind: 'type', field: 'fare', to: 'date', misfit: 'blank' }, 'decimal cannot be read as date'],
    [{ kind: 'type', field: 'fare', to: 'decimal', misfit: 'blank' }, '“fare” is decimal already'],
    [{ kind: 'unfold', field: 'gate', as: 'x', keepEmpty: true }, '“gate” is not a list'],
    [{ kind: 'spread', field: 'parts', take: [], keepWhole: false }, 'choose what is taken out of it'],
    [{ kind: 'rank', as: 'place', order: [], within: [] }, 'in which order? Choose one'],
    [
      { kind: 'rank', as: 'place', order: [{ by: 'parts' }], within: [] },
      '“parts” is a list or object, which has no order',
    ],
    [
      { kind: 'running', as: 'x', what: 'total', field: 'gate', order: [{ by: 'id' }], within: [] },
      '“gate” is not a number',
    ],
    [
      { kind: 'running', as: 'x', what: 'average', field: 'fare', order: [{ by: 'id' }], within: [] },
      'over how many records?',
    ],
    [
      { kind: 'periods', field: 'at', unit: 'day', within: [], zero: [] },
      '“at” is not a date; summarise by a calendar unit first',
    ],
    [
      { kind: 'long', fields: ['id', 'gate'], name: 'n', value: 'v' },
      'these fields are of different types: integer, text',
    ],
    [{ kind: 'fill', field: 'fare', with: { kind: 'value', value: 'none' } }, '“none” is not a number'],
    [
      {
        kind: 'wide',
        by: ['id'],
        across: 'at',
        values: [{ value: 'x', as: 'x' }],
        calculation: { kind: 'count' },
      },
      '“at” has no values to make fields of',
    ],
    [
      {
        kind: 'summarise',
        by: [{ field: 'gate', unit: 'day', as: 'g' }],
        measures: [{ name: 'n', calculation: { kind: 'count' } }],
      },
      '“gate” is neither a date nor a moment',
    ],
    [
      { kind: 'summarise', by: [], measures: [{ name: 'n', calculation: { kind: 'sum', field: 'gate' } }] },
      '“gate” is not a number',
    ],
    [
      { kind: 'stack', with: [{ ref: { dataSet: gates }, word: '' }] },
      '“gate” is text here and integer in the other; change the type of one first',
    ],
    [
      lookUp({ from: { dataSet: '00000000-0000-4000-8000-000000000002' } }),
      'the other data set no longer exists',
    ],
    [lookUp({ from: { dataSet: gates, subset: 'shut' } }), 'the other data set has no subset “shut”'],
    [
      lookUp({ on: [{ field: 'id', other: 'code' }] }),
      '“id” is integer and “code” is text, so they are never equal; change the type of one first',
    ],
    [
      lookUp({ on: [{ field: 'share', other: 'gate' }] }),
      '“share” is float and “gate” is integer, so they are never equal; change the type of one first',
    ],
    [lookUp({ take: [{ field: 'terminal', as: 'gate' }] }), 'there is a field “gate” already'],
    [
      lookUp({ take: [{ field: 'terminal', as: 'Gate' }] }),
      '“gate” and “Gate” differ only in capitals; rename one of them',
    ],
    [
      { ...derive({ kind: 'expression', text: 'fare' }), name: 'GATE' },
      '“gate” and “GATE” differ only in capitals; rename one of them',
    ],
    [lookUp({ take: [] }), 'choose what is brought'],
    [lookUp({ mode: 'first' }), 'the first by which order? Choose one'],
    [lookUp({ mode: 'count', take: [] }), 'the new field has no name'],
    [lookUp({ mode: 'aggregate', take: [], as: 'n' }), 'choose what is worked out'],
    [derive({ kind: 'expression', text: 'fare +' }), 'the end has no meaning here'],
    [
      derive({ kind: 'between', from: 'day', to: 'at', unit: 'day' }),
      'one is a date and the other a moment; make both the same first',
    ],
    [derive({ kind: 'between', from: 'day', unit: 'hour' }), 'between dates there are days, not hours'],
    [
      derive({
        kind: 'bands',
        field: 'fare',
        bands: [
          { below: '9', word: 'a' },
          { below: '3', word: 'b' },
        ],
        rest: 'c',
      }),
      'each bound is above the one before it',
    ],
    [derive({ kind: 'bins', field: 'fare', size: '0' }), 'a bin is wider than nothing'],
    [
      derive({ kind: 'extract', field: 'gate', pattern: '(?=NRK)' }),
      'looking around and back-references are not possible',
    ],
    [derive({ kind: 'extract', field: 'gate', pattern: '(' }), 'the pattern is not complete'],
    [derive({ kind: 'link', template: 'https://x.example/{gone}' }), 'there is no field “gone”'],
    [derive({ kind: 'clock', field: 'at', zone: 'Skerry/Haven' }), 'there is no time zone “Skerry/Haven”'],
  ])('%j', (told, why) => expect(problem(told)).toBe(why));

  test('and leaves the fields as they were for the steps after it', () => {
    const shaped = shape(
      fields,
      [step({ kind: 'rename', field: 'gone', as: 'x' }), step({ kind: 'rename', field: 'id', as: 'x' })],
      world,
    );
    expect(shaped.problems).toEqual(['there is no field “gone”', null]);
    expect(shaped.fields[2]?.[0]).toEqual({ name: 'x', type: 'integer', label: 'Number' });
  });

  test('unless it is passed over', () => {
    expect(
      shape(fields, [step({ kind: 'rename', field: 'gone', as: 'x', off: true })], world).problems,
    ).toEqual([null]);
  });
});

describe('fields after steps', () => {
  const fieldsAfter = (...told: object[]): Field[] => [
    ...(shape(fields, told.map(step), world).fields.at(-1) ?? []),
  ];

  test('keep what was said of them where only their name or place changes', () => {
    expect(fieldsAfter({ kind: 'rename', field: 'gate', as: 'scanner' })[1]).toEqual({
      ...fields[1],
      name: 'scanner',
    });
    expect(fieldsAfter({ kind: 'fields', keep: ['fare', 'id'] }).map(({ name }) => name)).toEqual([
      'fare',
      'id',
    ]);
  });

  test('lose the words of a state when their type changes', () => {
    expect(fieldsAfter({ kind: 'type', field: 'gate', to: 'integer', misfit: 'list' })).toMatchObject([
      {},
      { name: 'gate', type: 'integer' },
      {},
      {},
      {},
      {},
      {},
      {},
      { name: 'gate as written', type: 'text' },
    ]);
    expect(
      fieldsAfter({ kind: 'type', field: 'gate', to: 'integer', misfit: 'blank' })[1]?.states,
    ).toBeUndefined();
  });

  test('of a data set are those of its steps, with the reader’s words for those that are still there', () => {
    const before: DataSet = {
      ...gateSet,
      fields: [
        { name: 'terminal', type: 'text', label: 'Quay', hidden: true },
        ...gateSet.fields.filter(({ name }) => name !== 'terminal'),
      ],
      start: gateSet.fields,
      steps: [step({ kind: 'derive', name: 'new', making: { kind: 'expression', text: '1' } })],
    };
    const outcome = withOutcome(before, world);
    expect(outcome.fields.map(({ name }) => name)).toEqual(['terminal', 'code', 'gate', 'new']);
    expect(outcome.fields[0]).toMatchObject({ label: 'Quay', hidden: true });
    const { steps: _, ...plain } = outcome;
    expect(withOutcome(plain, world)).not.toHaveProperty('start');
  });
});

describe('what is worked out', () => {
  const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'UTC' };
  const relation = (...told: object[]): Relation => ({
    source: '',
    request: { kind: 'kept', name: 'scans' },
    inputs: {},
    start: fields,
    ...planSteps(
      fields,
      told.map((each, at) => step({ ...each, id: `step-${at}` })),
      {},
      { world, clock },
    ),
  });
  const text = (from: Relation, wanted: string[], order: string[] = []): string =>
    compile(
      {
        kind: 'records',
        from,
        zone: 'UTC',
        where: { all: [] },
        fields: wanted,
        order: order.map((by) => ({ by })),
        offset: 0,
        limit: 50,
      },
      duckdb,
    ).text;
  const price = { kind: 'derive', name: 'price', making: { kind: 'expression', text: 'fare / 3' } };

  test('leaves out a look-up, and a field that is made, when nobody asked for them', () => {
    const from = relation(lookUp({}), price);
    expect(text(from, ['id'])).not.toMatch(/JOIN|quotient/);
    expect(text(from, ['terminal'])).toContain('LEFT JOIN');
    expect(text(from, ['price'])).not.toContain('JOIN');
  });

  test('cuts the page out before what only adds to each record', () => {
    const from = relation(price, {
      kind: 'where',
      condition: { field: 'id', test: { op: 'atLeast', value: '7' } },
    });
    const sql = text(from, ['price'], ['at']);
    expect(sql.indexOf('exact_quotient')).toBeLessThan(sql.indexOf('LIMIT'));
    expect(sql.lastIndexOf('ORDER BY')).toBeGreaterThan(sql.indexOf('LIMIT'));
    expect(laterSteps(from, ['at']).later.map(({ step: { kind } }) => kind)).toEqual(['derive']);
  });

  test('but not what the page depends on: what is ordered by, kept by, changed again, or counted over others', () => {
    const later = (deciding: string[], ...told: object[]): string[] =>
      laterSteps(relation(...told), deciding).later.map(({ step: { kind } }) => kind);
    expect(later(['price'], price)).toEqual([]);
    expect(
      later([], price, { kind: 'where', condition: { field: 'price', test: { op: 'filled' } } }),
    ).toEqual([]);
    expect(later([], price, { kind: 'rename', field: 'fare', as: 'paid' })).toEqual([]);
    expect(
      later([], price, {
        kind: 'running',
        as: 'sum',
        what: 'total',
        field: 'price',
        order: [{ by: 'id' }],
        within: [],
      }),
    ).toEqual([]);
    expect(later([], price, { kind: 'unfold', field: 'parts', as: 'part', keepEmpty: true })).toEqual([]);
    expect(
      later([], { kind: 'fill', field: 'gate', with: { kind: 'before', order: [{ by: 'id' }], within: [] } }),
    ).toEqual([]);
  });

  test('refers to a subset with its condition', () => {
    const [planned0] = relation(lookUp({ from: { dataSet: gates, subset: 'open' } })).steps ?? [];
    expect(planned0?.others[0]?.steps?.map(({ step: { kind } }) => kind)).toEqual(['where']);
  });

  test('is refused by the number of the step that cannot be done', () => {
    expect(() => relation(price, { kind: 'rename', field: 'gone', as: 'x' })).toThrow('doing step 2');
    const lost = { ...gateSet, request: { kind: 'of' as const, dataSet: 'gone', columns: [] } };
    expect(() => relationWith(lost, gates, {}, { world, clock })).toThrow('no longer exists');
  });
});

describe('a link', () => {
  test('has names of RFC 6570 that a record can fill', () => {
    expect(linkParts('https://x.example/{a}/{b}{?c,d}#e')).toMatchObject([
      { text: 'https://x.example/', field: 'a', operator: '', first: true },
      { text: '/', field: 'b' },
      { text: '', field: 'c', operator: '?', first: true },
      { text: '', field: 'd', operator: '?', first: false },
      { text: '#e' },
    ]);
    for (const wrong of ['{a*}', '{a:3}', '{a', 'b}', '{}']) expect(linkParts(wrong), wrong).toBeNull();
  });
});

describe('a name that changed in the middle of the steps', () => {
  const rename = (as: string): Step => ({ kind: 'rename', id: 'a', field: 'gate', as });
  const later: Step[] = [
    { kind: 'where', id: 'b', condition: { field: 'gate', test: { op: 'filled' } } },
    { kind: 'derive', id: 'c', name: 'said', making: { kind: 'expression', text: 'upper(GATE) || "gate"' } },
    {
      kind: 'derive',
      id: 'd',
      name: 'link',
      making: { kind: 'link', template: 'https://x.example/{gate}{?id,gate}' },
    },
    { kind: 'fields', id: 'e', keep: ['id', 'gate', 'said'] },
  ];

  const carriedOver = (steps: readonly Step[], before: readonly (readonly Step[])[]) =>
    carryOn(shape(fields, steps, world), steps, before, world);

  test('is carried into every later step that reads it', () => {
    const carried = carriedOver([rename('door no'), ...later], []);
    expect(carried).toMatchObject({ from: 'gate', to: 'door no', changed: 4 });
    expect(carried?.steps.slice(1)).toMatchObject([
      { condition: { field: 'door no' } },
      { making: { text: 'upper("door no") || "door no"' } },
      { making: { template: 'https://x.example/{door no}{?id,door no}' } },
      { keep: ['id', 'door no', 'said'] },
    ]);
    expect(shape(fields, carried?.steps ?? [], world).problems).toEqual([null, null, null, null, null]);
  });

  test('is known from an earlier version of the step that made it, and guessed from nothing else', () => {
    const made = (name: string): Step => ({
      kind: 'derive',
      id: 'x',
      name,
      making: { kind: 'expression', text: 'took' },
    });
    const reads: Step = { kind: 'where', id: 'y', condition: { field: 'minutes', test: { op: 'filled' } } };
    expect(carriedOver([made('wait'), reads], [[made('minutes')]])).toMatchObject({
      from: 'minutes',
      to: 'wait',
      changed: 1,
    });
    expect(carriedOver([made('wait'), reads], [[made('hours')]])).toBeNull();
    expect(carriedOver([reads], [])).toBeNull();
    expect(carriedOver([made('wait')], [])).toBeNull();
  });

  test('ends where the old name is made again', () => {
    const again: Step = {
      kind: 'derive',
      id: 'f',
      name: 'gate',
      making: { kind: 'expression', text: "'north'" },
    };
    const last: Step = { kind: 'where', id: 'g', condition: { field: 'gate', test: { op: 'blank' } } };
    const [first] = later;
    if (!first) throw new Error('no step');
    const carried = carriedOver([rename('door'), first, again, last], []);
    expect(carried).toMatchObject({ changed: 1 });
    expect(carried?.steps[3]).toEqual(last);
  });
});
