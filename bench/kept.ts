/*
 * Kept records against what they could cost at least: the same SQL in bare DuckDB on the same files, the same records as
 * a PostgreSQL table. Ratios in one run; the machine decides the milliseconds.
 */
import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type DuckDBConnection, DuckDBInstance } from '@duckdb/node-api';
import pg from 'pg';
import { depthsOf, groupsAt } from '#core/dashboard/pane/kinds/crosstab/sets.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { binFacts } from '#core/plan/bin-facts.ts';
import { type GroupsPlan, mostNumbers, type RecordsPlan, type Relation } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { sortsDone } from '#engine/columnar/sorted.ts';
import { closeColumnar, columnar, openKept } from '#server/kept/open.ts';
import { refresh } from '#server/kept/refresh.ts';
import { runPlan } from '#server/records/run.ts';
import { addDataSet } from '#server/store/data-sets.ts';
import { closeDatabase } from '#server/store/database.ts';
import { addSource } from '#server/store/sources.ts';
import { keptScans, tableOf } from '#testing/plans.ts';
import { compared, timed } from './measure.ts';

const rows = Number(process.env.BENCH_KEPT_ROWS ?? 10_000_000);
const runs = Number(process.env.BENCH_RUNS ?? 9);
const server = process.env.SLATE_DATABASE ?? '';

const ms = (value: number): string => `${value.toFixed(1)} ms`.padStart(11);
const say = (name: string, what: string): void => console.log(`${name.padEnd(46)} ${what}`);

function inDatabase(name: string): string {
  const url = new URL(server);
  url.pathname = `/${name}`;
  return url.href;
}

const fields: DataSet['fields'] = [
  { name: 'id', type: 'integer' },
  { name: 'gate', type: 'text' },
  { name: 'outcome', type: 'text' },
  { name: 'scanned_at', type: 'instant' },
  { name: 'took_ms', type: 'integer' },
  { name: 'fare', type: 'decimal' },
];

async function fill(): Promise<pg.Client> {
  const admin = new pg.Client({ connectionString: inDatabase('postgres') });
  await admin.connect();
  const { rowCount } = await admin.query("SELECT 1 FROM pg_database WHERE datname = 'bench_kept'");
  if (!rowCount) await admin.query('CREATE DATABASE bench_kept');
  await admin.end();
  const client = new pg.Client({ connectionString: inDatabase('bench_kept') });
  await client.connect();
  await client.query(
    'CREATE TABLE IF NOT EXISTS scan (id bigint, gate text, outcome text, scanned_at timestamptz, took_ms bigint, fare numeric(10,2))',
  );
  const { rows: known } = await client.query('SELECT count(*) AS n FROM scan');
  if (Number(known[0]?.n) !== rows) {
    await client.query('TRUNCATE scan');
    await client.query(
      `INSERT INTO scan SELECT n, 'Gate ' || (1 + n % 12), (ARRAY['passed','passed','passed','refused','expired'])[1 + (n * 7919) % 5],
         '2025-01-01T00:00:00Z'::timestamptz + n * interval '5 seconds', (n * 31) % 900, ((n * 37) % 9000) / 100.0
       FROM generate_series(1, $1::bigint) AS n`,
      [rows],
    );
    await client.query('VACUUM ANALYZE scan');
  }
  return client;
}

async function keep(): Promise<string> {
  const url = new URL(server);
  const [source, id] = [randomUUID(), randomUUID()];
  await addSource({
    id: source,
    name: 'Bench, kept',
    connection: {
      kind: 'postgres',
      host: url.hostname,
      port: Number(url.port),
      database: 'bench_kept',
      user: url.username,
      tls: 'off',
    },
    report: { facts: [], warnings: [], clockSkewMs: 0, tookMs: 0, at: new Date().toISOString() },
    secret: decodeURIComponent(url.password),
    madeBy: null,
  });
  const definition = keptScans(source, 'scan', fields, {
    mode: { kind: 'replace' },
    schedule: { kind: 'by hand' },
  });
  await addDataSet({ id, name: 'Bench, kept', definition, by: null });
  const took = await timed(async () => {
    const refreshed = await refresh(id);
    if (refreshed.state !== 'done') throw new Error(JSON.stringify(refreshed));
  });
  const perSecond = Math.round(rows / (took / 1000)).toLocaleString('en-GB');
  say(
    'fetching all of them from PostgreSQL',
    `${ms(took)}   ${perSecond} records a second   asked: at least 400,000`,
  );
  const bare = await copiedByHand();
  say(
    'COPY to a file, and DuckDB’s own reading and writing',
    `${ms(bare)}   ×${(took / bare).toFixed(2)}   asked: at most ×2.5`,
  );
  return id;
}

/** The same by hand: the table copied to a file by PostgreSQL's own client, read and written as Parquet by bare DuckDB. */
async function copiedByHand(): Promise<number> {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-bench-'));
  const [csv, parquet] = [path.join(folder, 'scan.csv'), path.join(folder, 'scan.parquet')];
  const instance = await DuckDBInstance.create(':memory:', { threads: '2' });
  const connection = await instance.connect();
  try {
    return await timed(async () => {
      execFileSync('psql', [inDatabase('bench_kept'), '-c', `\\copy scan TO '${csv}' (FORMAT csv)`]);
      await connection.run(
        `COPY (SELECT * FROM read_csv('${csv}', header = false, columns = {'id': 'BIGINT', 'gate': 'VARCHAR', 'outcome': 'VARCHAR', 'scanned_at': 'TIMESTAMPTZ',
           'took_ms': 'BIGINT', 'fare': 'DECIMAL(18, 2)'})) TO '${parquet}' (FORMAT parquet, COMPRESSION zstd)`,
      );
    });
  } finally {
    connection.closeSync();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** What panes ask of many records, against the same by hand. */
async function measurePanes(ours: Relation, bare: DuckDBConnection, version: string): Promise<void> {
  const doing = { doing: 'measuring' };
  const count = { name: 'count', calculation: { kind: 'count' as const } };
  const whole = { from: ours, where: { all: [] }, zone: 'Europe/London', order: [], limit: mostNumbers };
  const crosstab: GroupsPlan = {
    ...whole,
    kind: 'groups',
    by: [
      { field: 'gate' },
      { field: 'outcome' },
      { field: 'scanned_at', cycle: 'weekday' },
      { field: 'scanned_at', unit: 'quarter' },
      { field: 'scanned_at', unit: 'month' },
    ],
    measures: [count, { name: 'fares', calculation: { kind: 'sum', field: 'fare' } }],
    sets: depthsOf(3, 2).map((depth) => groupsAt(depth, 3)),
  };
  const columns = ['gate', 'outcome', 'weekday', 'quarter', 'month'];
  const sets = (crosstab.sets ?? []).map((set) => `(${set.map((at) => columns[at]).join(', ')})`);
  const byHand = `SELECT gate, outcome, weekday, quarter, month, count(*), sum(fare) FROM (
      SELECT gate, outcome, isodow(local) AS weekday, date_trunc('quarter', local) AS quarter, date_trunc('month', local) AS month, fare
      FROM (SELECT *, scanned_at + CASE WHEN month(scanned_at) BETWEEN 4 AND 10 THEN INTERVAL 1 HOUR ELSE INTERVAL 0 HOUR END AS local
            FROM kept."${version}"))
    GROUP BY GROUPING SETS (${sets.join(', ')})`;
  const [hand = 0, asked = 0] = await compared(
    runs,
    () => bare.runAndReadAll(byHand),
    () => runPlan(crosstab, doing),
  );
  say(
    'a crosstab of 3 × 2 levels with all totals',
    `${ms(asked)}   by hand ${ms(hand)}   ×${(asked / hand).toFixed(2)}   asked: at most ×1.4`,
  );

  const month = { field: 'scanned_at', unit: 'month' as const };
  const one: GroupsPlan = { ...whole, kind: 'groups', by: [month], measures: [count] };
  const each: GroupsPlan = { ...one, by: [{ field: 'gate' }, month], top: { count: 12, rest: false } };
  const [single = 0, twelve = 0] = await compared(
    runs,
    () => runPlan(one, doing),
    () => runPlan(each, doing),
  );
  say(
    'one chart, and twelve small ones',
    `${ms(single)} ${ms(twelve)}   ×${(twelve / single).toFixed(2)}   asked: at most ×1.5`,
  );

  const field = { name: 'took_ms', type: 'integer' as const };
  const histogram = async (): Promise<void> => {
    const facts = binFacts(one, field);
    const bins = facts.bins(facts.read((await runPlan(facts.plan, doing)).records));
    if (!bins) throw new Error('there are numbers');
    await runPlan({ ...one, by: [{ field: field.name, bins }] }, doing);
  };
  const [binned = 0] = await compared(runs, histogram);
  say('a histogram, its ranges found first', `${ms(binned)}`);

  const events = (id: string): RecordsPlan => ({
    ...whole,
    kind: 'records',
    where: { field: 'id', test: { op: 'same', value: id } },
    fields: fields.map(({ name }) => name),
    order: [{ by: 'scanned_at' }],
    offset: 0,
    limit: 1000,
  });
  let turn = 0;
  const [trace = 0] = await compared(runs, () => {
    turn += 1;
    return Promise.all([1, 2, 3].map((part) => runPlan(events(String(turn * 1000 + part)), doing)));
  });
  say('what three systems have of one case', `${ms(trace)}   asked: at most 150 ms`);
}

async function main(): Promise<void> {
  console.log(`\n${rows.toLocaleString('en-GB')} kept records, medians of ${runs} runs\n`);
  const client = await fill();
  await client.query('SET max_parallel_workers_per_gather = 2');
  const id = await keep();
  const version = (await openKept([id], 'measuring')).get(id);
  if (!version) throw new Error('the records are not there');
  const live: Relation = {
    source: '',
    request: tableOf('scan', fields),
    inputs: {},
    fields,
  };
  const ours: Relation = { ...live, request: { kind: 'kept', name: id } };
  const grouped = (from: Relation): GroupsPlan => ({
    kind: 'groups',
    from,
    where: { field: 'outcome', test: { op: 'is', values: ['passed', 'refused'] } },
    zone: 'Europe/London',
    by: [{ field: 'gate' }, { field: 'scanned_at', unit: 'month' }],
    measures: [
      { name: 'count', calculation: { kind: 'count' } },
      { name: 'fares', calculation: { kind: 'sum', field: 'fare' } },
    ],
    order: [{ by: 'count', descending: true }],
    limit: 1000,
  });
  // Bare DuckDB gets the SQL that a person would write for the same question, on the same files.
  const engine = await columnar();
  const bare = await engine.connect();
  const byHand = `SELECT gate, date_trunc('month', scanned_at + INTERVAL 1 HOUR) AS month, count(*) AS n, sum(fare)
    FROM kept."${version.id}" WHERE outcome IN ('passed', 'refused') GROUP BY 1, 2 ORDER BY n DESC LIMIT 1000`;
  const inPostgres = compile(grouped(live), postgres);
  const [direct = 0, through = 0] = await compared(
    runs,
    () => bare.runAndReadAll(byHand),
    () => runPlan(grouped(ours), { doing: 'measuring' }),
  );
  const table = await timed(() =>
    client.query({ text: inPostgres.text, values: inPostgres.values as unknown[], rowMode: 'array' }),
  );
  say('grouping and filtering, bare DuckDB', `${ms(direct)}`);
  say(
    'the same through the product',
    `${ms(through)}   ×${(through / direct).toFixed(2)}   asked: at most ×1.3`,
  );
  say(
    'the same as a PostgreSQL table',
    `${ms(table)}   ×${(table / through).toFixed(1)}   asked: at least ×10`,
  );

  const page = (offset: number): RecordsPlan => ({
    kind: 'records',
    from: ours,
    where: { all: [] },
    zone: 'UTC',
    fields: fields.map(({ name }) => name),
    order: [{ by: 'scanned_at', descending: true }],
    key: 'id',
    offset,
    limit: 50,
  });
  // The first page that is far away has the records put in order; those after it find them so.
  const sorting = await timed(() => runPlan(page(Math.floor(rows / 2)), { doing: 'measuring' }));
  await sortsDone();
  const [first = 0, far = 0] = await compared(
    runs,
    () => runPlan(page(0), { doing: 'measuring' }),
    () => runPlan(page(Math.floor(rows / 2)), { doing: 'measuring' }),
  );
  say(
    'a page of 50, the first and one half-way',
    `${ms(first)} ${ms(far)}   +${(far - first).toFixed(0)} ms   asked: at most 150 ms more; the very first far one ${ms(sorting)}`,
  );
  await measurePanes(ours, bare, version.id);
  bare.closeSync();

  say('memory of this process', `${(process.memoryUsage().rss / 1e6).toFixed(0)} MB`);
  await closeColumnar();
  await closeDatabase();
  await client.end();
}

await main();
