/*
 * `npm run bench`: what the product adds to the same SQL sent straight through `pg`, in one run on one machine.
 * Ratios, never a timed test: the machine decides the milliseconds, the product the ratios.
 */
import { randomUUID } from 'node:crypto';
import { Agent, type IncomingMessage, request } from 'node:http';
import pg from 'pg';
import { ask } from '#core/dashboard/flow/ask.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import { dataSetFromTable } from '#core/dataset/from-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { compile } from '#core/sql/compile.ts';
import { postgres } from '#core/sql/dialect/postgres/dialect.ts';
import { demoPassword } from '#demo/people.ts';
import { seal } from '#server/secrets.ts';
import { discover } from '#sources/postgres/discover.ts';

const rows = Number(process.env.BENCH_ROWS ?? 5_000_000);
const runs = Number(process.env.BENCH_RUNS ?? 15);
const origin = process.env.SLATE_URL ?? '';
const server = process.env.SLATE_DATABASE ?? '';

const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

/** Work that knows when a person has what they waited for; what comes after that is let finish off the clock. */
type Work = (reached: () => void) => Promise<unknown>;

async function timed(work: Work): Promise<number> {
  const start = performance.now();
  let took = 0;
  await work(() => {
    took = performance.now() - start;
  });
  return took;
}

/** Runs two ways of doing a thing turn by turn, so that both meet the same machine. */
async function compared(direct: Work, through: Work): Promise<[number, number]> {
  const [a, b]: [number[], number[]] = [[], []];
  await timed(direct);
  await timed(through);
  for (let n = 0; n < runs; n += 1) {
    a.push(await timed(direct));
    b.push(await timed(through));
  }
  return [median(a), median(b)];
}

const ms = (value: number): string => value.toFixed(1).padStart(8);
const report = (name: string, direct: number, through: number, limit: string): void =>
  console.log(
    `${name.padEnd(44)} ${ms(direct)} ${ms(through)} ${(through / direct).toFixed(2).padStart(7)} ${`+${(through - direct).toFixed(1)}`.padStart(9)}   ${limit}`,
  );

function inDatabase(name: string): string {
  const url = new URL(server);
  url.pathname = `/${name}`;
  return url.href;
}

async function fill(): Promise<pg.Client> {
  const admin = new pg.Client({ connectionString: inDatabase('postgres') });
  await admin.connect();
  const { rowCount } = await admin.query("SELECT 1 FROM pg_database WHERE datname = 'bench_gates'");
  if (!rowCount) await admin.query('CREATE DATABASE bench_gates');
  await admin.end();
  const client = new pg.Client({ connectionString: inDatabase('bench_gates') });
  await client.connect();
  await client.query(
    'CREATE TABLE IF NOT EXISTS scans (id bigint PRIMARY KEY, gate text NOT NULL, outcome text NOT NULL, scanned_at timestamptz NOT NULL, took_ms int NOT NULL)',
  );
  const known = await client.query('SELECT count(*) AS n FROM scans');
  if (Number(known.rows[0].n) !== rows) {
    await client.query('TRUNCATE scans');
    await client.query(
      `INSERT INTO scans SELECT n, 'Gate ' || (1 + n % 12), (ARRAY['passed','passed','passed','refused','expired'])[1 + (n * 7919) % 5],
         '2026-01-01T00:00:00Z'::timestamptz + n * interval '5 seconds', (n * 31) % 900 FROM generate_series(1, $1::bigint) AS n`,
      [rows],
    );
    await client.query('CREATE INDEX IF NOT EXISTS scans_time ON scans (scanned_at)');
    await client.query('VACUUM ANALYZE scans');
  }
  return client;
}

/** Node's plain HTTP client on kept connections: the least that a client can cost. */
const agent = new Agent({ keepAlive: true });
const get = (address: string, cookie: string): Promise<IncomingMessage> =>
  new Promise((resolve, reject) => {
    request(address, { agent, headers: { cookie } }, resolve).once('error', reject).end();
  });

interface Bench {
  readonly cookie: string;
  readonly dashboard: string;
  readonly context: Context;
}

/** A published dashboard of the big table: a table page, a grouped chart, and more to make eight. */
async function publish(client: pg.Client): Promise<Bench> {
  const url = new URL(server);
  const address = {
    host: url.hostname,
    port: Number(url.port),
    database: 'bench_gates',
    user: url.username,
    password: decodeURIComponent(url.password),
    tls: 'off' as const,
    allowed: [url.hostname],
  };
  const tables = await discover(address);
  const [table] = tables;
  if (!table) throw new Error('the table is missing');
  const [source, set, id] = [randomUUID(), randomUUID(), randomUUID()];
  const made = dataSetFromTable(source, table, tables, {
    columns: table.columns.map(({ name }) => name),
    lookUps: [],
  });
  const dataSet: DataSet = {
    ...made,
    measures: [
      { name: 'count', label: 'scans', calculation: { kind: 'count' } },
      { name: 'took', label: 'average time', calculation: { kind: 'average', field: 'took_ms' } },
    ],
  };
  const of = { dataSet: set, place: { x: 0, y: 0, w: 3, h: 3 } };
  const chart = (pane: string, field: string, more: object = {}) => ({
    kind: 'chart' as const,
    id: pane,
    title: pane,
    ...of,
    mark: 'columns' as const,
    measure: 'count',
    by: { field },
    order: 'value' as const,
    ...more,
  });
  const dashboard: Dashboard = {
    version: 4,
    title: 'Bench',
    scope: [{ name: 'scanned', many: 'dates', offer: 'dates', dataSet: set, field: 'scanned_at' }],
    panes: [
      {
        kind: 'table',
        id: 'page',
        title: 'page',
        ...of,
        columns: [{ field: 'gate' }, { field: 'outcome' }, { field: 'scanned_at' }, { field: 'took_ms' }],
        order: [{ by: 'scanned_at', descending: true }],
        pageSize: 50,
      },
      chart('grouped', 'gate', { split: 'outcome' }),
      chart('by-gate', 'gate'),
      chart('by-outcome', 'outcome'),
      chart('by-day', 'scanned_at', { by: { field: 'scanned_at', unit: 'day' }, order: 'label' }),
      { kind: 'card', id: 'all', title: 'all', ...of, measure: 'count', against: 'none' },
      { kind: 'card', id: 'took', title: 'took', ...of, measure: 'took', against: 'none' },
      {
        kind: 'card',
        id: 'refused',
        title: 'refused',
        ...of,
        measure: 'count',
        against: 'none',
        keeping: { field: 'outcome', test: { op: 'is', values: ['refused'] } },
      },
    ],
  };
  const own = new pg.Client({ connectionString: server });
  await own.connect();
  await own.query('INSERT INTO sources (id, name, connection, secret, proof) VALUES ($1, $2, $3, $4, $5)', [
    source,
    'Bench',
    JSON.stringify({
      kind: 'postgres',
      host: address.host,
      port: address.port,
      database: address.database,
      user: address.user,
      tls: 'off',
    }),
    seal(address.password, source),
    '{}',
  ]);
  const desk = await own.query('SELECT id FROM desks LIMIT 1');
  await own.query(
    'INSERT INTO dashboards (id, desk_id, slug, position, draft, published) VALUES ($1, $2, $3, 99, $4, 1)',
    [id, desk.rows[0].id, `bench-${id}`, JSON.stringify(dashboard)],
  );
  await own.query(
    'INSERT INTO versions (dashboard_id, number, definition, data_sets) VALUES ($1, 1, $2, $3)',
    [id, JSON.stringify(dashboard), JSON.stringify({ [set]: dataSet })],
  );
  await own.end();
  await client.query('SET timezone = UTC');
  const signedIn = await fetch(`${origin}/sign-in`, {
    method: 'POST',
    redirect: 'manual',
    headers: { Origin: origin, 'Content-Type': 'application/x-www-form-urlencoded' },
    body: new URLSearchParams({ email: 'analyst@skerry.example', password: demoPassword }),
  });
  const cookie = signedIn.headers.get('set-cookie')?.split(';')[0] ?? '';
  const clock = { now: new Date(), zone: 'Europe/London' };
  return {
    cookie,
    dashboard: id,
    context: { dashboard, dataSets: new Map([[set, dataSet]]), scope: emptyScope, clock },
  };
}

async function main(): Promise<void> {
  console.log(`${rows.toLocaleString('en-GB')} records, medians of ${runs} runs, milliseconds\n`);
  const client = await fill();
  const { cookie, dashboard, context } = await publish(client);
  const plans = new Map(
    context.dashboard.panes.map((pane) => {
      const asked = ask(pane, context);
      if (asked.state === 'waiting') throw new Error('a pane waits');
      const [question] = Object.values(asked.first);
      if (!question || !('plan' in question)) throw new Error('a pane asks for no records');
      return [pane.id, compile(question.plan, postgres)];
    }),
  );
  const direct =
    (id: string): Work =>
    async (reached) => {
      const query = plans.get(id);
      if (query)
        await client.query({ text: query.text, values: query.values as unknown[], rowMode: 'array' });
      reached();
    };
  /** What a person waits for is the first result of every pane asked for; a table's total may come after it. */
  const through =
    (ids: readonly string[], search = ''): Work =>
    async (reached) => {
      const response = await get(
        `${origin}/view/${dashboard}/panes?_panes=${ids.join(',')}${search}`,
        cookie,
      );
      if (!response.headers['content-type']?.includes('ndjson'))
        throw new Error(`answered ${response.statusCode}`);
      const seen = new Set<string>();
      let rest = '';
      response.setEncoding('utf8');
      for await (const chunk of response) {
        rest += chunk;
        const lines = rest.split('\n');
        rest = lines.pop() ?? '';
        for (const line of lines) {
          const { id, result } = JSON.parse(line);
          if (result.state !== 'ready') throw new Error(`${id}: ${line.slice(0, 300)}`);
          const isNew = !seen.has(id);
          seen.add(id);
          if (isNew && seen.size === ids.length) reached();
        }
      }
    };
  console.log(`${''.padEnd(44)}   direct  through   ratio      more`);
  for (const [id, name] of [
    ['page', 'a table page, sorted by an index'],
    ['grouped', 'a chart by two groups'],
  ] as const) {
    const [a, b] = await compared(direct(id), through([id]));
    report(name, a, b, 'asked: at most +15');
  }
  // Eight panes on a scope of a day, as a reader narrows: all painted against the slowest plan by itself.
  const search = '&scanned=~dates.2026-06-01~2026-06-01';
  const ids = context.dashboard.panes.map(({ id }) => id);
  const slowest = Math.max(...(await singles(ids, search, through)));
  const all: number[] = [];
  for (let n = 0; n < runs; n += 1) all.push(await timed(through(ids, search)));
  report(
    'a scope change with eight panes',
    slowest,
    median(all),
    `asked: at most ${(1.3 * slowest + 50).toFixed(1)}`,
  );
  agent.destroy();
  await client.end();
}

/** The median time of each pane asked for alone, one after another. */
async function singles(
  ids: readonly string[],
  search: string,
  through: (ids: readonly string[], search: string) => Work,
): Promise<number[]> {
  const times: number[] = [];
  for (const id of ids) {
    const one: number[] = [];
    for (let n = 0; n < runs; n += 1) one.push(await timed(through([id], search)));
    times.push(median(one));
  }
  return times;
}

await main();
