import type pg from 'pg';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { Change } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { endPools } from '#engine/postgres/pool.ts';
import { testDatabase } from '#testing/database.ts';
import type { Changing, NotedChanges } from '../change.ts';
import { postgresChanges } from './change.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
let client: pg.Client;

beforeAll(async () => {
  database = await testDatabase();
  client = database.client;
  await client.query(`CREATE TYPE berth AS ENUM ('north', 'south')`);
  await client.query(`CREATE TABLE "odd ""orders" (id int PRIMARY KEY, title text NOT NULL, cost numeric(12,2), due date, done_at timestamptz,
    local timestamp, share float8, urgent boolean, at berth, extra jsonb, hours int CHECK (hours >= 0))`);
});
beforeEach(async () => {
  await client.query('TRUNCATE "odd ""orders"');
  await client.query(`INSERT INTO "odd ""orders" SELECT n, 'order ' || n, 10.50, '2026-11-01', '2026-11-02 03:04:05.678901+00', '2026-11-02 03:04:05',
    0.1, false, 'north', '{"a": 1}', 3 FROM generate_series(1, 5) AS n`);
});
afterAll(async () => {
  await endPools();
  await database.client.end();
});

const columns: Column[] = [
  { column: 'title', name: 'title', type: 'text', filled: true },
  { column: 'cost', name: 'cost', type: 'decimal' },
  { column: 'due', name: 'due', type: 'date' },
  { column: 'done_at', name: 'done', type: 'instant' },
  { column: 'local', name: 'local', type: 'instant', read: 'utc' },
  { column: 'share', name: 'share', type: 'float' },
  { column: 'urgent', name: 'urgent', type: 'boolean' },
  { column: 'at', name: 'berth', type: 'text', read: 'text' },
  { column: 'extra', name: 'extra', type: 'nested', read: 'text' },
  { column: 'hours', name: 'hours', type: 'integer' },
];
const asItIs = {
  title: 'order 1',
  cost: '10.50',
  due: '2026-11-01',
  done: '2026-11-02T03:04:05.678901Z',
  local: '2026-11-02T03:04:05Z',
  share: '0.1',
  urgent: 'false',
  berth: 'north',
  extra: '{"a": 1}',
  hours: '3',
};

const changing = (changes: readonly Change[], more: Partial<Changing> = {}): Changing => ({
  place: {
    kind: 'one-table',
    schema: 'public',
    table: 'odd "orders',
    key: { column: 'id', name: 'id', type: 'integer' },
  },
  columns,
  changes,
  doing: 'changing orders',
  once: 'once',
  beforeEnd: async () => undefined,
  ...more,
});
const run = (changes: readonly Change[], more: Partial<Changing> = {}) =>
  postgresChanges(database.address).change(changing(changes, more));
/** What is noted of a change; PostgreSQL needs its number alone. */
const noted = (mark: string): NotedChanges => ({
  mark,
  place: changing([]).place,
  columns,
  records: [{ key: '1', before: null, after: null }],
});
const costs = async (): Promise<string[]> =>
  (await client.query('SELECT cost::text FROM "odd ""orders" ORDER BY id')).rows.map(({ cost }) => cost);

describe('a change', () => {
  test('of every type is compared with what was seen and comes back as it is read, to the last digit', async () => {
    const values = {
      title: `O’Brien "; DROP TABLE -- 🚢`,
      cost: '9999999999.99',
      due: '2028-02-29',
      done: '2026-12-31T23:59:59.999999Z',
      local: '2026-12-31T23:59:59Z',
      share: '0.30000000000000004',
      urgent: 'true',
      berth: 'south',
      extra: '{"b": [2]}',
      hours: '0',
    };
    const result = await run([{ way: 'update', key: '1', expected: asItIs, values }]);
    expect(result).toEqual({
      state: 'done',
      records: [{ key: '1', before: asItIs, after: values }],
    });
    // What it came to is what the next one has to see.
    const back = await run([{ way: 'update', key: '1', expected: values, values: asItIs }]);
    expect(back).toMatchObject({ state: 'done', records: [{ after: asItIs }] });
  });

  test('to blank, and of what was blank, is one like any other', async () => {
    const set = (from: string | null, to: string | null) =>
      run([{ way: 'update', key: '2', expected: { cost: from }, values: { cost: to } }]);
    expect(await set('10.50', null)).toMatchObject({ state: 'done' });
    expect(await set('10.50', '1')).toMatchObject({ state: 'conflict' });
    expect(await set(null, '1')).toMatchObject({ state: 'done' });
  });

  test('of many records is made of all or of none: a conflict says how they are, and nothing is changed', async () => {
    await client.query(
      `UPDATE "odd ""orders" SET cost = 7 WHERE id = 4; DELETE FROM "odd ""orders" WHERE id = 5`,
    );
    const result = await run(
      ['1', '2', '3', '4', '5'].map((key) => ({
        way: 'update',
        key,
        expected: { cost: '10.50' },
        values: { cost: '1.00' },
      })),
    );
    expect(result).toMatchObject({
      state: 'conflict',
      conflicts: [
        { key: '4', is: { cost: '7.00' } },
        { key: '5', is: null },
      ],
    });
    expect(await costs()).toEqual(['10.50', '10.50', '10.50', '7.00']);
  });

  test('that a constraint refuses is made of none, and says why in the database’s words', async () => {
    const refused = run([
      { way: 'update', key: '1', expected: {}, values: { hours: '5' } },
      { way: 'update', key: '2', expected: {}, values: { hours: '-1' } },
    ]);
    await expect(refused).rejects.toThrow(/violates check constraint/);
    expect((await client.query('SELECT sum(hours)::int AS n FROM "odd ""orders"')).rows[0].n).toBe(15);
    await expect(run([{ way: 'update', key: '1', expected: {}, values: { berth: 'east' } }])).rejects.toThrow(
      /invalid input value for enum/,
    );
  });

  test('adds and removes, with what the source made of it', async () => {
    const added = await run([
      { way: 'insert', values: { title: 'new', cost: '1' } },
      { way: 'remove', key: '1', expected: { title: 'order 1' } },
    ]).catch((thrown) => thrown);
    // It has no key of its own here.
    expect(added).toBeInstanceOf(ProblemError);
    await client.query(
      'ALTER TABLE "odd ""orders" ALTER id ADD GENERATED BY DEFAULT AS IDENTITY (START 100)',
    );
    const result = await run([
      { way: 'insert', values: { title: 'new', cost: '1' } },
      { way: 'remove', key: '1', expected: { title: 'order 1' } },
    ]);
    expect(result).toMatchObject({
      state: 'done',
      records: [
        { key: '100', before: null, after: { title: 'new', cost: '1.00' } },
        { key: '1', before: asItIs, after: null },
      ],
    });
    await client.query('ALTER TABLE "odd ""orders" ALTER id DROP IDENTITY');
  });

  test('that is not to end after all leaves nothing behind', async () => {
    const stopped = run([{ way: 'update', key: '1', expected: {}, values: { cost: '1' } }], {
      beforeEnd: async () => {
        throw new Error('our own database is away');
      },
    });
    await expect(stopped).rejects.toThrow('our own database is away');
    expect((await costs())[0]).toBe('10.50');
  });

  test('whose connection is lost before its end was not made, and that can be asked afterwards', async () => {
    let mark = '';
    const lost = run([{ way: 'update', key: '1', expected: {}, values: { cost: '1' } }], {
      beforeEnd: async (given) => {
        mark = given;
        await client.query(
          `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()`,
        );
      },
    });
    await expect(lost).rejects.toBeInstanceOf(ProblemError);
    expect((await costs())[0]).toBe('10.50');
    expect(await postgresChanges(database.address).outcomes(noted(mark))).toEqual([false]);
    let made = '';
    await run([{ way: 'update', key: '1', expected: {}, values: { cost: '1' } }], {
      beforeEnd: async (given) => {
        made = given;
      },
    });
    expect(await postgresChanges(database.address).outcomes(noted(made))).toEqual([true]);
  });

  test('waits for whoever holds the record, and then sees what they made of it', async () => {
    await client.query('BEGIN');
    await client.query('UPDATE "odd ""orders" SET cost = 8 WHERE id = 3');
    const waiting = run([{ way: 'update', key: '3', expected: { cost: '10.50' }, values: { cost: '1' } }]);
    await expect
      .poll(
        async () =>
          (await client.query(`SELECT count(*)::int AS n FROM pg_locks WHERE NOT granted`)).rows[0].n,
      )
      .toBeGreaterThan(0);
    await client.query('COMMIT');
    expect(await waiting).toMatchObject({
      state: 'conflict',
      conflicts: [{ key: '3', is: { cost: '8.00' } }],
    });
  });

  test('that a rule of rows keeps from some is made of none', async () => {
    const role = `changer_${process.pid}`;
    await client.query(`CREATE ROLE ${role} LOGIN PASSWORD 'x'; GRANT SELECT, UPDATE ON "odd ""orders" TO ${role};
      ALTER TABLE "odd ""orders" ENABLE ROW LEVEL SECURITY; CREATE POLICY seen ON "odd ""orders" FOR SELECT TO ${role} USING (true);
      CREATE POLICY changed ON "odd ""orders" FOR UPDATE TO ${role} USING (id < 3)`);
    const limited = postgresChanges({ ...database.address, user: role, password: 'x' });
    const each = (key: string): Change => ({ way: 'update', key, expected: {}, values: { cost: '1' } });
    // A record that may not be changed is not there for whoever would hold it.
    expect(await limited.change(changing([each('2'), each('3')]))).toMatchObject({ state: 'conflict' });
    expect((await costs())[1]).toBe('10.50');
    expect(await limited.change(changing([each('2')]))).toMatchObject({ state: 'done' });
    expect((await limited.test()).facts).toContainEqual({ name: 'May change', value: '1 table' });
    await client.query('ALTER TABLE "odd ""orders" DISABLE ROW LEVEL SECURITY');
  });

  test('that a trigger swallows is told as such, and made of none', async () => {
    await client.query(`CREATE FUNCTION swallow() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN IF NEW.id = 2 THEN RETURN NULL; END IF; RETURN NEW; END';
      CREATE TRIGGER swallow BEFORE UPDATE ON "odd ""orders" FOR EACH ROW EXECUTE FUNCTION swallow()`);
    const both = ['1', '2'].map(
      (key): Change => ({ way: 'update', key, expected: {}, values: { cost: '1' } }),
    );
    await expect(run(both)).rejects.toThrow('the source let 1 of 2 be changed');
    expect((await costs()).slice(0, 2)).toEqual(['10.50', '10.50']);
    await client.query('DROP TRIGGER swallow ON "odd ""orders"');
  });
});
