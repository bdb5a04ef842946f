import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Step } from '#core/dataset/step/schema.ts';
import { extend, type RecordsPlan, type Relation } from '#core/plan/plan.ts';
import { planSteps } from '#core/plan/relation.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import { runPlan } from '#engine/postgres/engine.ts';
import { fromTable, recordsOf } from '#testing/plans.ts';
import { type EnginePair, enginePair, type PairColumn } from '../../testing/engine-pair.ts';
import { runColumnar } from './run.ts';

/* Days beside moments: a day is its first instant in the zone, the same on both engines. */

const columns: PairColumn[] = [
  { name: 'id', postgres: 'bigint', duckdb: 'BIGINT' },
  { name: 'day', postgres: 'date', duckdb: 'DATE' },
  { name: 'at', postgres: 'timestamptz', duckdb: 'TIMESTAMP' },
];
const fields: Field[] = [
  { name: 'id', type: 'integer' },
  { name: 'day', type: 'date' },
  { name: 'at', type: 'instant' },
];
const from = fromTable('call', fields);
/** In Newfoundland, where a day begins at half past three, or in summer half past two, by UTC. */
const zone = 'America/St_Johns';
const rows = [
  ['2026-11-23', '2026-11-23 03:29:59+00'],
  ['2026-11-23', '2026-11-23 03:30:00+00'],
  ['2026-07-01', '2026-07-01 02:30:00+00'],
  // The day on which the clocks go forward.
  ['2026-03-08', '2026-03-08 03:30:00+00'],
  [null, '2026-11-23 03:30:00+00'],
];

let pair: EnginePair;
beforeAll(async () => {
  pair = await enginePair();
  await pair.createTable('call', columns);
  await pair.fill('call', columns, rows);
});
afterAll(() => pair.close());

async function made(text: string): Promise<unknown[]> {
  const step: Step = { kind: 'derive', id: 'd', name: 'made', making: { kind: 'expression', text } };
  const shaping = {
    world: new Map(),
    clock: { now: new Date('2026-11-23T12:00:00Z'), zone },
    person: { name: '', email: '' },
  };
  const plan = (relation: Relation): RecordsPlan =>
    recordsOf(extend(relation, planSteps(fields, [step], {}, shaping)), {
      zone,
      fields: ['made'],
      order: [{ by: 'id' }],
    });
  return answers(plan);
}

/** The first field of the records of a plan, the same from both engines. */
async function answers(plan: (relation: Relation) => RecordsPlan): Promise<unknown[]> {
  const live = await runPlan(plan(from), { address: pair.database.address, doing: 'testing' });
  const kept = compile(plan({ ...from, request: { kind: 'kept', name: 'call' } }), duckdb);
  const columnar = await runColumnar(pair.columnar, kept, { doing: 'testing' });
  expect(columnar.records).toEqual(live.records);
  return live.records.map(([cell]) => cell);
}

test('a moment is compared with the first instant of a day', async () => {
  expect(await made('at >= day')).toEqual([false, true, true, true, null]);
  expect(await made('at = day')).toEqual([false, true, true, true, null]);
  expect(await made('day < at')).toEqual([false, false, false, false, null]);
  expect(await made("at BETWEEN DATE '2026-11-23' AND CURRENT_DATE")).toEqual([
    false,
    true,
    false,
    false,
    true,
  ]);
});

test('a day stands in for a moment as its first instant', async () => {
  expect(await made('COALESCE(NULLIF(at, at), day)')).toEqual([
    '2026-11-23T03:30:00Z',
    '2026-11-23T03:30:00Z',
    '2026-07-01T02:30:00Z',
    '2026-03-08T03:30:00Z',
    null,
  ]);
});

test('records of one unit of time stand in the order of what comes after it', async () => {
  const sorted = (...order: RecordsPlan['order']) =>
    answers((relation) => recordsOf(relation, { zone, fields: ['id'], order }));
  expect(await sorted({ by: 'at', unit: 'day', descending: true }, { by: 'id', descending: true })).toEqual([
    '5',
    '2',
    '1',
    '3',
    '4',
  ]);
  expect(await sorted({ by: 'day', unit: 'quarter' }, { by: 'at', descending: true })).toEqual([
    '4',
    '3',
    '2',
    '1',
    '5',
  ]);
});
