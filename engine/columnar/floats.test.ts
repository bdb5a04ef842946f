import { afterAll, beforeAll, expect, test } from 'vitest';
import type { FilterTest } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Plan, RecordsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { instantText } from '#core/value/field/instant.ts';
import { runPlan } from '#engine/postgres/engine.ts';
import { fromTable } from '#testing/plans.ts';
import { type EnginePair, enginePair, type PairColumn } from '../../testing/engine-pair.ts';
import { runColumnar } from './run.ts';

/* NaN and infinity among floats (IEEE 754), and the last instants that each engine has. */

const columns: PairColumn[] = [
  { name: 'id', postgres: 'bigint', duckdb: 'BIGINT' },
  { name: 'value', postgres: 'double precision', duckdb: 'DOUBLE' },
  { name: 'small', postgres: 'real', duckdb: 'DOUBLE' },
  { name: 'at', postgres: 'timestamptz', duckdb: 'TIMESTAMP' },
];
const fields = [
  { name: 'id', type: 'integer' },
  { name: 'value', type: 'float' },
  { name: 'small', type: 'float' },
  { name: 'at', type: 'instant' },
] as const;
const from = fromTable('reading', fields);
const rows = [
  ['1.5', '1.5', '294246-12-31 23:59:59.5+00'],
  ['NaN', 'NaN', '10000-01-01 00:00:00+00'],
  ['Infinity', 'Infinity', '9999-12-31 23:59:59+00'],
  ['-Infinity', '-Infinity', '0001-01-01 00:00:00+00'],
  [null, null, null],
];

let pair: EnginePair;
beforeAll(async () => {
  pair = await enginePair();
  await pair.createTable('reading', columns);
  await pair.fill('reading', columns, rows);
});
afterAll(() => pair.close());

async function both(plan: Plan): Promise<[unknown, unknown]> {
  const kept = { ...plan, from: { ...from, request: { kind: 'kept', name: 'reading' } } } as Plan;
  return [
    (await runPlan(plan, { address: pair.database.address, doing: 'testing' })).records,
    (await runColumnar(pair.columnar, compile(kept, duckdb), { doing: 'testing' })).records,
  ];
}
const page = (test: FilterTest | null, more: Partial<RecordsPlan> = {}): RecordsPlan => ({
  kind: 'records',
  from,
  where: test ? { field: 'value', test } : { all: [] },
  zone: 'UTC',
  fields: ['id', 'value', 'small'],
  order: [{ by: 'id' }],
  offset: 0,
  limit: 10,
  ...more,
});

test('both engines show floats as what they are', async () => {
  const [one, other] = await both(page(null));
  expect(one).toEqual(other);
  expect(one).toEqual([
    ['1', 1.5, 1.5],
    ['2', 'NaN', 'NaN'],
    ['3', 'Infinity', 'Infinity'],
    ['4', '-Infinity', '-Infinity'],
    ['5', null, null],
  ]);
});

test.each<[FilterTest, string[]]>([
  [{ op: 'blank' }, ['5']],
  [{ op: 'filled' }, ['1', '2', '3', '4']],
  [{ op: 'is', values: ['NaN'] }, ['2']],
  [{ op: 'is', values: ['Infinity', null] }, ['3', '5']],
  [{ op: 'same', value: '-Infinity' }, ['4']],
  [{ op: 'atLeast', value: '0' }, ['1', '2', '3']],
  [{ op: 'below', value: '2' }, ['1', '4']],
])('both engines find the same by %j', async (test, ids) => {
  const [one, other] = await both(page(test, { fields: ['id'] }));
  expect(one).toEqual(other);
  expect(one).toEqual(ids.map((id) => [id]));
});

test('both engines order them alike, and every figure of them can be worked out', async () => {
  const [one, other] = await both(page(null, { fields: ['id'], order: [{ by: 'value', descending: true }] }));
  expect(one).toEqual(other);
  for (const field of ['value', 'small']) {
    const calculations: PlannedMeasure['calculation'][] = [
      { kind: 'sum', field },
      { kind: 'average', field },
      { kind: 'median', field },
      { kind: 'percentile', field, at: 90 },
      { kind: 'least', field },
      { kind: 'greatest', field },
      { kind: 'distinct', field },
      { kind: 'filled', field },
    ];
    const [figures, others] = await both({
      kind: 'groups',
      from,
      where: { all: [] },
      zone: 'UTC',
      by: [],
      measures: calculations.map((calculation) => ({ name: calculation.kind, calculation })),
      order: [],
      limit: 10,
    });
    expect(figures).toEqual(others);
    expect(figures).toEqual([['NaN', 'NaN', expect.anything(), 'NaN', '-Infinity', 'NaN', '4', '4']]);
  }
});

test('both engines write the last instants that they have as ISO 8601', async () => {
  const [one, other] = await both(page(null, { fields: ['at'] }));
  expect(one).toEqual(other);
  expect(one).toEqual([
    ['+294246-12-31T23:59:59.5Z'],
    ['+010000-01-01T00:00:00Z'],
    ['9999-12-31T23:59:59Z'],
    ['0001-01-01T00:00:00Z'],
    [null],
  ]);
  expect(instantText(-63_517_824_000_000_000n)).toBe('-000043-03-15T00:00:00Z');
  expect(instantText(2n ** 63n - 1n)).toBe('infinity');
});
