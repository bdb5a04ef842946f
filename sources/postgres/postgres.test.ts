import { createServer, type Server } from 'node:net';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import { totals } from '#core/plan/plan.ts';
import { ProblemError, problemOf as problemOfThrown } from '#core/value/problem/problem.ts';
import { countRecords, runPlan } from '#engine/postgres/engine.ts';
import { endPools, type PostgresAddress } from '#engine/postgres/pool.ts';
import { runQuery } from '#engine/postgres/run.ts';
import { testDatabase } from '#testing/database.ts';
import { discover } from './discover.ts';
import { testPostgres } from './prove.ts';
import { tryRequest } from './try.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
const now = () => new Date();
const options = () => ({ source: 'test', address: database.address, inputs: {} });

beforeAll(async () => {
  database = await testDatabase();
  await database.client.query(`
    CREATE TABLE routes (id int PRIMARY KEY, name text NOT NULL);
    CREATE TABLE "Odd ""table""" ("a column" text, "naïve 🚢" int, at timestamp, kind uuid, doc jsonb, big bigint, exact numeric);
    CREATE TABLE sailings (id bigint PRIMARY KEY, route_id int REFERENCES routes, note text);
    CREATE DOMAIN pounds AS numeric(9, 2);
    CREATE DOMAIN fare AS pounds CHECK (VALUE >= 0);
    CREATE TABLE tolls (object oid, paid fare, share real);
    INSERT INTO tolls VALUES (4000000000, 12.50, 0.5), (1, 0.25, 'NaN');
    CREATE VIEW late AS SELECT id FROM sailings;
    INSERT INTO routes VALUES (1, 'Norrick – Holm Pier');
    INSERT INTO sailings VALUES (1, 1, 'a'), (2, NULL, ''), (9007199254740993, 1, NULL);
    INSERT INTO "Odd ""table""" VALUES ('x', 1, '2026-11-23 06:40', '5a1e0000-0000-4000-8000-000000000001', '{"a": [1]}', 9007199254740993, 0.10);
    DO $$ BEGIN CREATE ROLE skerry_reads LOGIN PASSWORD 'x'; EXCEPTION WHEN duplicate_object THEN NULL; END $$;
    CREATE FUNCTION own_reads(n int) RETURNS int LANGUAGE sql IMMUTABLE AS 'SELECT n * 2';
    CREATE FUNCTION own_writes() RETURNS int LANGUAGE plpgsql AS 'BEGIN DELETE FROM routes; RETURN 1; END';
    CREATE FUNCTION own_rights() RETURNS int LANGUAGE sql STABLE SECURITY DEFINER AS 'SELECT 1';
    GRANT SELECT ON sailings, routes TO skerry_reads`);
});
afterAll(async () => {
  await endPools();
  await database.client.end();
});

const problemOf = async (change: Partial<PostgresAddress>): Promise<string> => {
  try {
    await testPostgres({ ...database.address, ...change }, now);
    return 'proved';
  } catch (thrown) {
    const { code, why } = problemOfThrown(thrown, 'proving');
    return `${code}: ${why}`;
  }
};

describe('proving a connection', () => {
  test('tells the version, the role, what it may do, and the clock', async () => {
    const report = await testPostgres({ ...database.address, user: 'skerry_reads', password: 'x' }, now);
    expect(report.facts).toEqual([
      { name: 'Server', value: expect.stringMatching(/^PostgreSQL \d+/) },
      { name: 'Signed in as', value: 'skerry_reads' },
      { name: 'May read', value: '2 tables and views' },
      { name: 'May change', value: 'nothing' },
    ]);
    expect(report.warnings).toEqual([]);
    expect(Math.abs(report.clockSkewMs ?? Number.NaN)).toBeLessThan(2000);
  });

  test.each([
    ['a wrong password', { password: 'wrong' }, 'credential: password authentication failed'],
    ['an unknown user', { user: 'nobody_here' }, 'credential: password authentication failed'],
    ['an unknown database', { database: 'nowhere' }, 'database: database "nowhere" does not exist'],
    ['an unknown host', { host: 'no-such-host.invalid' }, 'unreachable: no such host'],
    ['a port where nothing listens', { port: 1 }, 'refused: the connection was refused'],
    [
      'TLS that the server does not offer',
      { tls: 'require' as const },
      'tls: The server does not support SSL',
    ],
  ])('says in plain words that there is %s', async (_, change, reason) => {
    expect(await problemOf(change)).toContain(reason);
  });

  test('says that a server which accepts and never answers took too long', async () => {
    const silent: Server = createServer(() => undefined);
    await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve));
    const address = silent.address();
    const port = typeof address === 'object' && address ? address.port : 0;
    expect(await problemOf({ port })).toContain('time-out: there was no answer in time');
    silent.close();
  });

  test('never repeats the password', async () => {
    expect(await problemOf({ password: 's3cret-tide' })).not.toContain('s3cret-tide');
    const report = await testPostgres(database.address, now);
    expect(JSON.stringify(report)).not.toContain(database.address.password);
  });
});

describe('looking around', () => {
  test('finds tables and views with columns, types, keys and foreign keys', async () => {
    const tables = await discover(database.address);
    const sailings = tables.find(({ name }) => name === 'sailings');
    expect(sailings?.key).toEqual(['id']);
    expect(sailings?.foreignKeys).toEqual([
      { columns: ['route_id'], schema: 'public', table: 'routes', keys: ['id'] },
    ]);
    expect(tables.find(({ name }) => name === 'late')?.kind).toBe('view');
    expect(tables.find(({ name }) => name === 'Odd "table"')?.columns.map(({ type }) => type)).toEqual([
      'text',
      'integer',
      'instant',
      'text',
      'nested',
      'integer',
      'decimal',
    ]);
  });

  test('takes domains as what they are made over and object ids as whole numbers, whose figures can be worked out', async () => {
    const tables = await discover(database.address);
    const tolls = tables.find(({ name }) => name === 'tolls');
    if (!tolls) throw new Error('not found');
    expect(tolls.columns.map(({ type }) => type)).toEqual(['integer', 'decimal', 'float']);
    const id = '5a1e0000-0000-4000-8000-000000000001';
    const { request, fields } = dataSetFromTable(id, tolls, tables, usualChoice(tolls, tables));
    const from = { source: id, request, inputs: {}, fields };
    const sums = ['object', 'paid', 'share'].map((field) => ({
      name: field,
      calculation: { kind: 'sum' as const, field },
    }));
    const { records } = await runPlan(totals(from, 'UTC', sums), {
      address: database.address,
      doing: 'testing',
    });
    expect(records).toEqual([['4000000001', '12.75', 'NaN']]);
  });

  test('shows a role only what it may read', async () => {
    const tables = await discover({ ...database.address, user: 'skerry_reads', password: 'x' });
    expect(tables.map(({ name }) => name)).toEqual(['routes', 'sailings']);
  });
});

describe('trying a request', () => {
  test('of a table with odd names gives its records with every digit', async () => {
    const tables = await discover(database.address);
    const odd = tables.find(({ name }) => name === 'Odd "table"');
    if (!odd) throw new Error('not found');
    const { request } = dataSetFromTable(
      '5a1e0000-0000-4000-8000-000000000001',
      odd,
      tables,
      usualChoice(odd, tables),
    );
    const { records } = await tryRequest(request, options());
    expect(records).toEqual([
      [
        'x',
        '1',
        '2026-11-23T06:40:00Z',
        '5a1e0000-0000-4000-8000-000000000001',
        '{"a": [1]}',
        '9007199254740993',
        '0.10',
      ],
    ]);
  });

  test('looks names up by key without multiplying or losing a record', async () => {
    const tables = await discover(database.address);
    const table = tables.find(({ name }) => name === 'sailings');
    if (!table) throw new Error('not found');
    const definition = dataSetFromTable(
      '5a1e0000-0000-4000-8000-000000000001',
      table,
      tables,
      usualChoice(table, tables),
    );
    const from = { source: 'test', request: definition.request, inputs: {}, fields: definition.fields };
    const plan = {
      kind: 'records' as const,
      from,
      where: { all: [] },
      zone: 'UTC',
      fields: ['id', 'route'],
      order: [{ by: 'id' }],
      offset: 0,
      limit: 10,
    };
    const asking = { address: database.address, doing: 'testing' };
    expect((await runPlan(plan, asking)).records).toEqual([
      ['1', 'Norrick – Holm Pier'],
      ['2', null],
      ['9007199254740993', 'Norrick – Holm Pier'],
    ]);
    expect(await countRecords(plan, asking)).toBe('3');
    expect(definition.fields.find(({ name }) => name === 'route_id')).toMatchObject({
      hidden: true,
      refers: 'public.routes.id',
    });
  });

  test('of SQL binds its inputs, and tells where each column comes from', async () => {
    const text =
      'SELECT s.id, r.name AS route, count(*) OVER () AS n FROM sailings s JOIN routes r ON r.id = s.route_id WHERE s.id > :least ORDER BY 1;';
    const tried = await tryRequest(
      { kind: 'sql', text, columns: [] },
      { ...options(), inputs: { least: { type: 'integer', value: '1' } } },
    );
    expect(tried.records).toEqual([['9007199254740993', 'Norrick – Holm Pier', '1']]);
    expect(tried.fields.map(({ origin }) => origin)).toEqual([
      'public.sailings.id',
      'public.routes.name',
      undefined,
    ]);
  });

  test('of SQL whose last line is a comment still works', async () => {
    const tried = await tryRequest(
      { kind: 'sql', text: 'SELECT 1 AS one -- the end', columns: [] },
      options(),
    );
    expect(tried.records).toEqual([['1']]);
  });

  test('of SQL that has gone wrong says so in the source’s own words', async () => {
    const failed = tryRequest({ kind: 'sql', text: 'SELECT no_such FROM sailings', columns: [] }, options());
    await expect(failed).rejects.toThrow('column "no_such" does not exist');
  });
});

describe('a question', () => {
  const ask = (text: string, more: object = {}) =>
    runQuery({ text, values: [] }, { source: 'test', address: database.address, doing: 'testing', ...more });
  const waiting = async (): Promise<number> => {
    const { rows } = await database.client.query(
      "SELECT count(*)::int AS n FROM pg_stat_activity WHERE query LIKE '%endless%' AND state = 'active' AND pid <> pg_backend_pid()",
    );
    return (rows[0] as { n: number }).n;
  };
  const endless =
    "SELECT count(*) FROM generate_series(1, 100000) a, generate_series(1, 100000) b WHERE a + b < 0 AND 'endless' <> ''";

  test.each([
    ["SELECT set_config('transaction_read_only', 'off', false)", 'set_config'],
    ["SELECT pg_read_file('/etc/passwd')", 'pg_read_file'],
    ['SELECT pg_catalog.PG_SLEEP(100)', 'pg_sleep'],
    ["SELECT * FROM ts_stat('SELECT pg_sleep(100)')", 'ts_stat'],
    ["SELECT ts_rewrite('a'::tsquery, 'SELECT pg_sleep(100)')", 'ts_rewrite'],
    ['SELECT pg_advisory_lock(1)', 'pg_advisory_lock'],
    ["SELECT query_to_xml('DELETE FROM t', true, true, '')", 'query_to_xml'],
    ["SELECT schema_to_xml('public', true, true, '')", 'schema_to_xml'],
    ["SELECT nextval('s')", 'nextval'],
    ["SELECT lo_import('/etc/passwd')", 'lo_import'],
    ["SELECT pg_ls_dir('.')", 'pg_ls_dir'],
    ['SELECT id FROM sailings WHERE id = (SELECT pg_terminate_backend(1)::int)', 'pg_terminate_backend'],
    ['SELECT own_writes()', 'own_writes'],
    ['SELECT public.own_rights()', 'somebody else’s rights'],
  ])('of a function that does more than read is refused before it runs: %s', async (text, reason) => {
    const refused = tryRequest({ kind: 'sql', text, columns: [] }, options());
    await expect(refused).rejects.toThrow(reason);
  });

  test('of functions that only read is answered, those of one’s own too', async () => {
    const text =
      'SELECT own_reads(2) AS twice, lower(note) AS low, random() < 2 AS yes FROM sailings ORDER BY id LIMIT 1';
    expect((await tryRequest({ kind: 'sql', text, columns: [] }, options())).records).toEqual([
      ['4', 'a', true],
    ]);
  });

  test('whose one value is larger than memory ends with the bytes that are allowed, and the next question is answered', async () => {
    const before = process.memoryUsage().rss;
    const text = "SELECT repeat('x', 1000000000) AS long";
    const refused = tryRequest({ kind: 'sql', text, columns: [] }, options());
    await expect(refused).rejects.toThrow('the answer is larger than 32 MB');
    expect(process.memoryUsage().rss - before).toBeLessThan(300_000_000);
    const { records } = await tryRequest({ kind: 'sql', text: 'SELECT 1 AS one', columns: [] }, options());
    expect(records).toEqual([['1']]);
  });

  test('that never ends is cut off after its time, and named as such', async () => {
    const failed = await ask(endless, { timeoutMs: 300 }).catch((thrown: unknown) => thrown);
    expect(failed instanceof ProblemError && failed.problem.code).toBe('time-out');
    await expect.poll(waiting, { timeout: 5000 }).toBe(0);
  });

  test('that nobody waits for any more is cancelled on the server', async () => {
    const stop = new AbortController();
    const failed = ask(endless, { signal: stop.signal }).catch((thrown: unknown) => thrown);
    await expect.poll(waiting, { timeout: 5000 }).toBe(1);
    stop.abort();
    expect(((await failed) as ProblemError).problem.code).toBe('stopped');
    await expect.poll(waiting, { timeout: 5000 }).toBe(0);
  });

  test('can change nothing, even where the role could', async () => {
    for (const text of [
      "INSERT INTO routes VALUES (2, 'x')",
      'CREATE TABLE x (a int)',
      "SELECT setval('x', 1)",
    ]) {
      const failed = await ask(text).catch((thrown: unknown) => thrown);
      expect(failed).toBeInstanceOf(ProblemError);
    }
    const { rows } = await database.client.query('SELECT count(*)::int AS n FROM routes');
    expect(rows).toEqual([{ n: 1 }]);
  });

  test('leaves no trace in the connection it used: the next one is read-only again', async () => {
    await ask("SELECT set_config('default_transaction_read_only', 'off', false)");
    const { records } = await ask("SELECT current_setting('transaction_read_only')");
    expect(records).toEqual([['on']]);
  });

  test('works again by itself once the server has dropped every connection', async () => {
    await ask('SELECT 1');
    const admin = new pg.Client({ ...database.address, ssl: false });
    await admin.connect();
    await admin.query(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <> pg_backend_pid() AND datname = current_database() AND application_name = 'slate-glass'",
    );
    await admin.end();
    await expect
      .poll(
        () =>
          ask('SELECT 1').then(
            ({ records }) => records,
            () => null,
          ),
        { timeout: 5000 },
      )
      .toEqual([['1']]);
  });
});
