/*
 * Ten steps over kept records, through what the page of the steps asks, against the same written as one SQL by hand, on the
 * same files; and the profile of every field. Ratios in one run; the machine decides the milliseconds.
 */
import type { DataSet } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Plan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { runColumnar } from '#engine/columnar/run.ts';
import { closeColumnar, columnar, openKept } from '#server/kept/open.ts';
import { runPlan } from '#server/records/run.ts';
import { profileAfter } from '#server/shape/profile.ts';
import { figuresAfter, recordsAfter } from '#server/shape/records.ts';
import { relationAfter, type Shaping } from '#server/shape/shaping.ts';
import { allDataSets, removeDataSet } from '#server/store/data-sets.ts';
import { closeDatabase } from '#server/store/database.ts';
import { compared } from './measure.ts';
import { uploaded } from './uploaded.ts';

const rows = Number(process.env.BENCH_STEP_ROWS ?? 5_000_000);
const runs = Number(process.env.BENCH_RUNS ?? 7);

const scans = await uploaded(
  'Bench scans',
  `SELECT n AS id, 'G-' || (1 + n % 12) AS gate, 'PSG-' || lpad(CAST((n * 7919) % 4000000 AS VARCHAR), 7, '0') AS passage_ref,
    ['passed','passed','passed','refused','expired'][1 + (n * 7919) % 5] AS outcome, CAST(TIMESTAMP '2025-01-01' + n * INTERVAL 5 SECONDS AS TIMESTAMPTZ) AS scanned_at,
    (n * 31) % 900 AS took_ms, CAST(((n * 37) % 9000) / 100 AS DECIMAL(18, 2)) AS fare FROM range(1, ${rows + 1}) AS r(n)`,
);
const gates = await uploaded(
  'Bench gates',
  "SELECT 'G-' || n AS code, 'Terminal ' || (n % 4) AS terminal FROM range(1, 13) AS r(n)",
);
const all = await allDataSets();
const world = new Map(all.map((each) => [each.id, each.definition]));
const stored = world.get(scans);
if (!stored) throw new Error('the data set is not there');
const versions = await openKept([scans, gates], 'measuring');

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
const definition: DataSet = { ...stored, start: stored.fields, steps };
const shaping: Shaping = {
  id: scans,
  definition,
  world,
  clock: { now: new Date(), zone: 'UTC' },
  person: { name: 'Bench', email: 'bench@skerry.example' },
  signal: new AbortController().signal,
};

const ms = (value: number): string => `${value.toFixed(1)} ms`.padStart(11);
const say = (name: string, what: string): void => console.log(`${name.padEnd(46)} ${what}`);
console.log(`\n${rows.toLocaleString('en-GB')} kept records, ten steps, medians of ${runs} runs\n`);

const bare = await (await columnar()).connect();
const view = (id: string): string => `kept."${versions.get(id)?.id}"`;
// Tests of texts ignore case, as they do everywhere in the product.
const byHand = `SELECT id, scanned_at AS "at", hour(scanned_at) AS hour, coalesce(g.terminal, 'elsewhere') AS terminal, gate || ' ' || outcome AS label,
  CASE WHEN took_ms < 200 THEN 'quick' WHEN took_ms < 600 THEN 'usual' ELSE 'slow' END AS speed, CAST(took_ms AS DECIMAL(18, 3)) / 1000 AS seconds, fare
  FROM ${view(scans)} s LEFT JOIN ${view(gates)} g ON g.code = s.gate WHERE lower(outcome) <> 'expired' AND took_ms >= 200`;
const latest: Plan = {
  kind: 'records',
  from: relationAfter(shaping, steps.length),
  zone: 'UTC',
  where: { all: [] },
  fields: ['id', 'at', 'hour', 'terminal', 'label', 'speed', 'seconds', 'fare'],
  order: [{ by: 'at', descending: true }],
  offset: 0,
  limit: 50,
};
/** As a person would who knows SQL: find the current files, ask, take the rows as values. */
async function run(text: string): Promise<void> {
  await openKept([scans, gates], 'measuring');
  await runColumnar(await columnar(), { text, values: [] }, { doing: 'measuring' });
}
/** A question by hand and through the steps, one after the other many times, apart from the others: each with warm caches. */
async function told(name: string, text: string, ours: () => Promise<unknown>): Promise<void> {
  const [bareTime = 0, hand = 0, own = 0] = await compared(
    runs,
    () => bare.runAndReadAll(text),
    () => run(text),
    ours,
  );
  say(
    `${name}: by hand, and through ten steps`,
    `${ms(hand)} ${ms(own)}   ×${(own / hand).toFixed(2)}   asked: at most ×1.25   (driver alone: ${ms(bareTime).trim()})`,
  );
}
await told('page one', `${byHand} LIMIT 51`, () => recordsAfter(shaping, steps.length, 1));
await told('page one, latest first', `${byHand} ORDER BY "at" DESC LIMIT 50`, () =>
  runPlan(latest, { doing: 'measuring' }),
);
await told('how many', `SELECT count(*) FROM (${byHand})`, () => figuresAfter(shaping, steps.length));

const names = stored.fields.map(({ name }) => name);
const [profiled = 0] = await compared(runs, () => profileAfter(shaping, 0, names));
say(`the profile of ${names.length} fields, all records`, `${ms(profiled)}   asked: at most 2,000 ms`);
say('memory of this process', `${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`);
if (process.env.BENCH_SQL) console.log(compile(latest, duckdb).text);
bare.closeSync();
for (const id of [scans, gates]) await removeDataSet(id);
await closeColumnar();
await closeDatabase();
