/*
 * Ten steps over kept records against the same written as one SQL by hand, on the same files; and the profile of every
 * field. Ratios in one run; the machine decides the milliseconds.
 */
import { mkdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import type { Plan, Relation } from '#core/plan/plan.ts';
import { compile, compileCount } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/duckdb.ts';
import { planned } from '#core/step/plan.ts';
import type { Step } from '#core/step/schema.ts';
import { ColumnarDatabase } from '#engine/columnar/database.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { median, timed } from './measure.ts';

const rows = Number(process.env.BENCH_STEP_ROWS ?? 5_000_000);
const runs = Number(process.env.BENCH_RUNS ?? 7);
const folder = path.join(tmpdir(), `slate-shaping-${process.pid}`);
mkdirSync(folder, { recursive: true });

const fields: Field[] = [
  { name: 'id', type: 'integer' },
  { name: 'gate', type: 'text' },
  { name: 'passage_ref', type: 'text' },
  { name: 'outcome', type: 'text' },
  { name: 'scanned_at', type: 'instant' },
  { name: 'took_ms', type: 'integer' },
  { name: 'fare', type: 'decimal' },
];
const gateFields: Field[] = [
  { name: 'code', type: 'text' },
  { name: 'terminal', type: 'text' },
];
const gates = '00000000-0000-4000-8000-000000000001';

const writer = await DuckDBInstance.create(':memory:');
const writing = await writer.connect();
await writing.run(`COPY (SELECT n AS id, 'G-' || (1 + n % 12) AS gate, 'PSG-' || lpad(CAST((n * 7919) % 4000000 AS VARCHAR), 7, '0') AS passage_ref,
  ['passed','passed','passed','refused','expired'][1 + (n * 7919) % 5] AS outcome, TIMESTAMP '2025-01-01' + n * INTERVAL 5 SECONDS AS scanned_at,
  (n * 31) % 900 AS took_ms, CAST(((n * 37) % 9000) / 100 AS DECIMAL(18, 2)) AS fare FROM range(1, ${rows + 1}) AS r(n)) TO '${folder}/scans.parquet' (FORMAT parquet)`);
await writing.run(
  `COPY (SELECT 'G-' || n AS code, 'Terminal ' || (n % 4) AS terminal FROM range(1, 13) AS r(n)) TO '${folder}/gates.parquet' (FORMAT parquet)`,
);
writing.closeSync();
writer.closeSync();

const engine = await ColumnarDatabase.open({ folder });
const kept = (list: readonly Field[]) => list.map(({ name, type }) => ({ name, type }));
await engine.define('scans', [`${folder}/scans.parquet`], kept(fields));
await engine.define('gates', [`${folder}/gates.parquet`], kept(gateFields));

const gateSet: DataSet = {
  version: 1,
  source: gates,
  request: { kind: 'upload', columns: [] },
  inputs: [],
  fields: gateFields,
  key: 'code',
  noun: { one: 'gate', many: 'gates' },
  measures: [],
  keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } },
};
const numbered = (steps: readonly object[]): Step[] =>
  steps.map((step, at) => ({ ...step, id: `step-${at + 1}` }) as Step);
const steps = numbered([
  { kind: 'where', condition: { field: 'outcome', test: { op: 'isNot', values: ['expired'] } } },
  { kind: 'derive', name: 'seconds', making: { kind: 'expression', text: 'took_ms / 1000' } },
  {
    kind: 'derive',
    name: 'speed',
    making: {
      kind: 'bands',
      field: 'took_ms',
      bands: [
        { below: '200', word: 'quick' },
        { below: '600', word: 'usual' },
      ],
      rest: 'slow',
    },
  },
  {
    kind: 'lookUp',
    from: { dataSet: gates },
    on: [{ field: 'gate', other: 'code' }],
    mode: 'one',
    take: [{ field: 'terminal', as: 'terminal' }],
    order: [],
  },
  { kind: 'rename', field: 'scanned_at', as: 'at' },
  { kind: 'derive', name: 'hour', making: { kind: 'expression', text: 'EXTRACT(HOUR FROM at)' } },
  { kind: 'fill', field: 'terminal', with: { kind: 'value', value: 'elsewhere' } },
  { kind: 'derive', name: 'label', making: { kind: 'join', fields: ['gate', 'outcome'], between: ' ' } },
  { kind: 'where', condition: { field: 'speed', test: { op: 'isNot', values: ['quick'] } } },
  { kind: 'fields', keep: ['id', 'at', 'hour', 'terminal', 'label', 'speed', 'seconds', 'fare'] },
]);
const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'UTC' };
const settled = (relation: Relation): Relation => ({
  ...relation,
  request: {
    kind: 'kept',
    name: relation.request.kind === 'kept' && relation.request.name !== 'scans' ? 'gates' : 'scans',
  },
  ...(relation.steps
    ? { steps: relation.steps.map((step) => ({ ...step, others: step.others.map(settled) })) }
    : {}),
});
const base: Relation = { source: '', request: { kind: 'kept', name: 'scans' }, inputs: {}, fields };
const shaped = settled({
  ...base,
  start: fields,
  ...planned(fields, steps, {}, { world: new Map([[gates, gateSet]]), clock }),
});

const ms = (value: number): string => `${value.toFixed(1)} ms`.padStart(11);
const say = (name: string, what: string): void => console.log(`${name.padEnd(46)} ${what}`);
console.log(`\n${rows.toLocaleString('en-GB')} kept records, ten steps, medians of ${runs} runs\n`);

async function compared(...ways: (() => Promise<unknown>)[]): Promise<number[]> {
  const times: number[][] = ways.map(() => []);
  for (const way of ways) await way();
  for (let n = 0; n < runs; n += 1) for (const [at, way] of ways.entries()) times[at]?.push(await timed(way));
  return times.map(median);
}

const whole = { from: shaped, zone: 'UTC', where: { all: [] } };
const page = (order: { by: string; descending: boolean }[]): Plan => ({
  kind: 'records',
  ...whole,
  fields: shaped.fields.map(({ name }) => name),
  order,
  offset: 0,
  limit: 50,
});
const bare = await engine.connect();
const byHand = `SELECT id, scanned_at AS "at", hour(scanned_at) AS hour, coalesce(g.terminal, 'elsewhere') AS terminal, gate || ' ' || outcome AS label,
  CASE WHEN took_ms < 200 THEN 'quick' WHEN took_ms < 600 THEN 'usual' ELSE 'slow' END AS speed, CAST(took_ms AS DECIMAL(18, 3)) / 1000 AS seconds, fare
  FROM kept.scans s LEFT JOIN kept.gates g ON g.code = s.gate WHERE outcome <> 'expired' AND took_ms >= 200`;
const ask = (plan: Plan) => () => runColumnar(engine, compile(plan, duckdb), { doing: 'measuring' });
const latest = [{ by: 'at', descending: true }];
const [handPage = 0, ourPage = 0, handLatest = 0, ourLatest = 0, handCount = 0, ourCount = 0] =
  await compared(
    () => bare.runAndReadAll(`${byHand} LIMIT 50`),
    ask(page([])),
    () => bare.runAndReadAll(`${byHand} ORDER BY "at" DESC LIMIT 50`),
    ask(page(latest)),
    () => bare.runAndReadAll(`SELECT count(*) FROM (${byHand})`),
    () =>
      runColumnar(engine, compileCount({ ...(page([]) as Extract<Plan, { kind: 'records' }>) }, duckdb), {
        doing: 'measuring',
      }),
  );
for (const [name, hand, ours] of [
  ['page one', handPage, ourPage],
  ['page one, latest first', handLatest, ourLatest],
  ['how many', handCount, ourCount],
] as const)
  say(
    `${name}: by hand, and through ten steps`,
    `${ms(hand)} ${ms(ours)}   ×${(ours / hand).toFixed(2)}   asked: at most ×1.25`,
  );

const profile: Plan = {
  kind: 'groups',
  from: { ...base },
  zone: 'UTC',
  where: { all: [] },
  by: [],
  measures: [
    { name: 'count', calculation: { kind: 'count' } },
    ...fields.flatMap(({ name, type }) => [
      {
        name: `blank ${name}`,
        calculation: { kind: 'count' as const },
        where: { field: name, test: { op: 'blank' as const } },
      },
      { name: `about ${name}`, calculation: { kind: 'about' as const, field: name } },
      ...(type === 'text'
        ? (['integer', 'decimal', 'date', 'instant'] as const).map((as) => ({
            name: `${name} ${as}`,
            calculation: { kind: 'readable' as const, field: name, as },
          }))
        : [
            { name: `least ${name}`, calculation: { kind: 'least' as const, field: name } },
            { name: `greatest ${name}`, calculation: { kind: 'greatest' as const, field: name } },
          ]),
    ]),
  ],
  order: [],
  limit: 1,
};
const [profiled = 0] = await compared(ask(profile));
say('the profile of seven fields, all records', `${ms(profiled)}   asked: at most 2,000 ms`);
say('memory of this process', `${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`);
bare.closeSync();
engine.close();
rmSync(folder, { recursive: true, force: true });
