import fc from 'fast-check';
import type { Filter, FilterTest } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { GroupsPlan } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import { fromTable } from '#testing/plans.ts';

/* Random plans over random sailings, for property tests. */

export const fields: Field[] = [
  { name: 'id', type: 'integer' },
  { name: 'route', type: 'text' },
  { name: 'cause', type: 'text' },
  { name: 'passengers', type: 'integer' },
  { name: 'fares', type: 'decimal' },
  { name: 'cancelled', type: 'boolean' },
  { name: 'day', type: 'date' },
  { name: 'departs', type: 'instant' },
];

export const createTable = `CREATE TABLE sailing (id bigint PRIMARY KEY, route text, cause text, passengers bigint,
  fares numeric, cancelled boolean, day date, departs timestamptz)`;

export const relation = fromTable('sailing', fields);

const texts = [
  'weather',
  'Weather',
  'tide',
  '100%',
  'a_b',
  "O'Brien",
  '"quoted"',
  'Ærø – Lütje',
  '🚢',
  'مرسى',
  '',
  '\\',
  '$1',
  ':x',
];
const instants = [
  '2026-03-29T00:30:00Z',
  '2026-03-29T01:00:00Z',
  '2026-03-28T23:59:59.999999Z',
  '2026-10-25T00:30:00Z',
  '2026-10-25T01:30:00Z',
  '2026-11-23T06:40:00Z',
  '2025-12-31T23:30:00Z',
];
const days = ['2026-03-29', '2026-10-25', '2026-01-01', '2025-12-29', '2026-11-23'];
const integers = ['0', '1', '-3', '42', '9007199254740993', '180'];
const decimals = ['0', '0.10', '0.20', '12345678901234567890.123456789', '-4.05', '19.99'];

const valuesOf: Record<string, fc.Arbitrary<string>> = {
  text: fc.constantFrom(...texts.filter(Boolean)),
  integer: fc.constantFrom(...integers),
  decimal: fc.constantFrom(...decimals),
  boolean: fc.constantFrom('true', 'false'),
  date: fc.constantFrom(...days),
  instant: fc.constantFrom(...instants),
};
const value = (field: Field): fc.Arbitrary<string> => valuesOf[field.type] ?? fc.constant('');
const maybe = (arbitrary: fc.Arbitrary<string>): fc.Arbitrary<string | null> =>
  fc.option(arbitrary, { freq: 4, nil: null });

/** Records as rows for an INSERT, in the order of `fields` except for the id. */
export const records = fc.array(
  fc.tuple(
    maybe(fc.constantFrom(...texts)),
    maybe(fc.constantFrom(...texts)),
    maybe(fc.constantFrom(...integers)),
    maybe(fc.constantFrom(...decimals)),
    maybe(fc.constantFrom('true', 'false')),
    maybe(fc.constantFrom(...days)),
    maybe(fc.constantFrom(...instants)),
  ),
  { minLength: 0, maxLength: 40 },
);

function testOf(field: Field): fc.Arbitrary<FilterTest> {
  const one = value(field);
  const list = fc.array(maybe(one), { maxLength: 4 });
  const any: fc.Arbitrary<FilterTest>[] = [
    list.map((values) => ({ op: 'is', values })),
    list.map((values) => ({ op: 'isNot', values })),
    maybe(one).map((each) => ({ op: 'same', value: each })),
    fc.constant({ op: 'blank' }),
    fc.constant({ op: 'filled' }),
  ];
  if (field.type === 'text')
    for (const op of ['contains', 'lacks', 'startsWith', 'endsWith'] as const)
      any.push(fc.oneof(one, fc.constantFrom('%', '_', 'EA')).map((text) => ({ op, text })));
  if (isNumeric(field.type) || isTemporal(field.type)) {
    for (const op of ['atMost', 'atLeast', 'below', 'above'] as const)
      any.push(one.map((each) => ({ op, value: each })));
    any.push(fc.tuple(one, one).map(([from, to]) => ({ op: 'between', from, to })));
  }
  if (isTemporal(field.type))
    any.push(fc.tuple(maybe(one), maybe(one)).map(([from, to]) => ({ op: 'within', from, to })));
  return fc.oneof(...any);
}

const leaf: fc.Arbitrary<Filter> = fc
  .constantFrom(...fields)
  .chain((field) => testOf(field).map((test) => ({ field: field.name, test })));

export const filter: fc.Arbitrary<Filter> = fc.letrec<{ filter: Filter }>((tie) => ({
  filter: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    leaf,
    fc.array(tie('filter'), { maxLength: 3 }).map((all) => ({ all })),
    fc.array(tie('filter'), { maxLength: 3 }).map((any) => ({ any })),
    fc.array(tie('filter'), { maxLength: 2 }).map((none) => ({ none })),
  ),
})).filter;

const numeric = fc.constantFrom('passengers', 'fares');
const calculation: fc.Arbitrary<PlannedMeasure['calculation']> = fc.oneof(
  fc.constant({ kind: 'count' as const }),
  fc.constantFrom('route', 'cause', 'day', 'fares').map((field) => ({ kind: 'distinct' as const, field })),
  fc
    .tuple(fc.constantFrom('sum', 'average', 'least', 'greatest', 'median'), numeric)
    .map(([kind, field]) => ({ kind, field }) as PlannedMeasure['calculation']),
  fc
    .tuple(numeric, fc.integer({ min: 1, max: 99 }))
    .map(([field, at]) => ({ kind: 'percentile' as const, field, at })),
  filter.map((where) => ({ kind: 'share' as const, where })),
  numeric.map((field) => ({
    kind: 'ratio' as const,
    of: { kind: 'sum' as const, field },
    to: { kind: 'count' as const },
  })),
);

export const measure: fc.Arbitrary<PlannedMeasure> = fc
  .tuple(calculation, fc.option(filter, { nil: undefined }))
  .map(([each, where]) => ({ name: 'm', calculation: each, ...(where ? { where } : {}) }));

const group = fc.oneof(
  fc.constantFrom('route', 'cause', 'cancelled', 'passengers').map((field) => ({ field })),
  fc
    .tuple(fc.constantFrom('day', 'departs'), fc.constantFrom('day', 'week', 'month', 'quarter', 'year'))
    .map(([field, unit]) => ({ field, unit: unit as 'day' })),
  fc.constant({ field: 'departs', unit: 'hour' as const }),
  fc
    .tuple(fc.constantFrom('day', 'departs'), fc.constantFrom('hourOfDay', 'weekday', 'monthOfYear'))
    .map(([field, cycle]) => ({ field, cycle: cycle as 'weekday' })),
  fc
    .record({
      field: fc.constantFrom('passengers', 'fares'),
      width: fc.constantFrom('1', '5', '20', '1000'),
      first: fc.integer({ min: -3, max: 0 }),
      last: fc.integer({ min: 0, max: 9 }),
    })
    .map(({ field, ...bins }) => ({ field, bins })),
  fc
    .constantFrom('0.1', '0.05', '7')
    .map((width) => ({ field: 'fares', bins: { width, first: -50, last: 200 } })),
);

export const groupsPlan: fc.Arbitrary<GroupsPlan> = fc
  .record({
    where: filter,
    by: fc.uniqueArray(group, { maxLength: 2, selector: ({ field }) => field }),
    measure,
    zone: fc.constantFrom('UTC', 'Europe/London', 'Asia/Kolkata', 'America/St_Johns', 'Pacific/Chatham'),
    top: fc.option(fc.record({ count: fc.integer({ min: 1, max: 3 }), rest: fc.boolean() }), {
      nil: undefined,
    }),
  })
  .map(({ where, by, measure: each, zone, top }) => ({
    kind: 'groups',
    from: relation,
    where,
    zone,
    by,
    measures: [each],
    order: [],
    limit: 1000,
    ...(top && by[0] && !('unit' in by[0]) ? { top } : {}),
  }));

/** Every set of the first few groups down with the first few across, coarse before fine: the sets of a crosstab. */
export const crosstabSets = (down: number, across: number): number[][] =>
  Array.from({ length: down + 1 }, (_, d) => d)
    .flatMap((d) =>
      Array.from({ length: across + 1 }, (_, a) => [
        ...Array.from({ length: d }, (_, index) => index),
        ...Array.from({ length: a }, (_, index) => down + index),
      ]),
    )
    .sort((one, other) => one.length - other.length);

/** Plans with totals and subtotals, of up to three groups down and across. */
export const setsPlan: fc.Arbitrary<GroupsPlan> = fc
  .tuple(
    groupsPlan,
    fc.uniqueArray(group, { minLength: 1, maxLength: 3, selector: ({ field }) => field }),
    fc.nat(3),
    measure,
  )
  .map(([plan, by, across, other]) => ({
    ...plan,
    by,
    measures: [...plan.measures, { ...other, name: 'n' }],
    sets: crosstabSets(by.length - Math.min(across, by.length - 1), Math.min(across, by.length - 1)),
    ...(plan.top && by[0] && 'unit' in by[0] ? { top: undefined } : {}),
  }));
