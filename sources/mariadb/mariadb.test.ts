import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import mysql, { type Connection as Session } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import type { MariaAddress } from './connect.ts';
import { changes, discoverMaria, testMaria } from './look.ts';
import { fetchMaria, tryMaria } from './read.ts';

/* Against a real server. */

const password = 'low tide \' " \\ 1';
let root: Session;
let connection: MariaAddress;
const folder = mkdtempSync(path.join(tmpdir(), 'slate-maria-'));

beforeAll(async () => {
  root = await mysql.createConnection({
    host: '127.0.0.1',
    port: inject('mariaPort'),
    user: 'root',
    multipleStatements: true,
  });
  await root.query(`
    CREATE DATABASE harbour CHARACTER SET utf8mb4;
    USE harbour;
    CREATE TABLE berths (id INT PRIMARY KEY, name VARCHAR(40) NOT NULL);
    CREATE TABLE \`calls "odd"\` (id BIGINT PRIMARY KEY, berth_id INT NULL, fee DECIMAL(20,6), late TINYINT(1), on_day DATE, at DATETIME(6), note TEXT, extra JSON, big BIGINT UNSIGNED, share DOUBLE,
      FOREIGN KEY (berth_id) REFERENCES berths (id));
    INSERT INTO berths VALUES (1, 'North'), (2, 'Søuth 🚢');
    SET sql_mode = '';
    INSERT INTO \`calls "odd"\` VALUES
      (9007199254740993, 1, 12345678901234.567891, 1, '2026-11-23', '2026-11-23 06:40:00.123456', 'a''b', '{"x":[1]}', 18446744073709551615, 0.5),
      (2, NULL, 0.100000, 0, '0000-00-00', NULL, '', NULL, NULL, NULL),
      (3, 2, NULL, NULL, NULL, '2026-11-24 00:00:00', NULL, NULL, 1, NULL);
    CREATE USER harbour_reads IDENTIFIED BY ${mysql.escape(password)};
    GRANT SELECT ON harbour.* TO harbour_reads;`);
  connection = {
    kind: 'mariadb',
    host: '127.0.0.1',
    port: inject('mariaPort'),
    database: 'harbour',
    user: 'harbour_reads',
    tls: 'off',
    password,
    allowed: ['127.0.0.1'],
  };
});
afterAll(async () => {
  await root.query('DROP DATABASE harbour; DROP USER harbour_reads');
  await root.end();
  rmSync(folder, { recursive: true, force: true });
});

const why = async (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'it worked',
    (thrown) => {
      const { code, why: said } = problemOf(thrown, 'testing');
      return `${code}: ${said}`;
    },
  );
const now = () => new Date();

async function calls() {
  const tables = await discoverMaria(connection);
  const table = tables.find(({ name }) => name === 'calls "odd"');
  if (!table) throw new Error('no table');
  return {
    table,
    made: dataSetFromTable('5a1e0000-0000-4000-8000-000000000001', table, tables, usualChoice(table, tables)),
  };
}

async function fetched(
  request: Request,
  fields: readonly { name: string; type: FieldType }[],
  more: object = {},
) {
  const writer = await SegmentWriter.open(
    folder,
    fields.map(({ name }) => name),
  );
  try {
    await fetchMaria(connection)(writer, {
      request,
      fields,
      inputs: {},
      position: null,
      doing: 'fetching',
      progress: async () => undefined,
      ...more,
    });
    await writer.type(await writer.scaled(fields));
    return await writer.typedFirst(10_000);
  } finally {
    writer.close();
  }
}

describe('a MariaDB source', () => {
  test('is proved, with what its user may do', async () => {
    const report = await testMaria(connection, now);
    expect(report.facts).toContainEqual({ name: 'May change', value: 'nothing' });
    expect(report.facts).toContainEqual({ name: 'May read', value: '2 tables and views' });
    expect(Math.abs(report.clockSkewMs ?? Number.NaN)).toBeLessThan(2000);
  });
  test.each([
    ['GRANT SELECT, SHOW VIEW ON `harbour`.* TO `a`@`%`', false],
    ['GRANT USAGE ON *.* TO `a`@`%` IDENTIFIED BY PASSWORD', false],
    ['GRANT SELECT ON `harbour`.`drop` TO `a`@`%`', false],
    ['GRANT INSERT ON `other`.* TO `a`@`%`', false],
    ['GRANT SELECT, INSERT ON `harb%`.* TO `a`@`%`', true],
    ['GRANT UPDATE ON `harb\\%`.* TO `a`@`%`', false],
    ['GRANT ALL PRIVILEGES ON *.* TO `a`@`%` WITH GRANT OPTION', true],
    ['GRANT DELETE ON `harbour`.`calls` TO `a`@`%`', true],
  ])('knows whether “%s” changes anything', (grant, does) => {
    expect(changes(grant, 'harbour')).toBe(does);
  });
  test.each([
    ['a wrong password', {}, 'wrong', 'credential'],
    ['a database that is not there', { database: 'nowhere' }, password, /database|forbidden/],
    ['a port where nothing listens', { port: 1 }, password, 'refused'],
    ['an unknown host', { host: 'no-such-host.invalid' }, password, 'unreachable'],
    ['TLS that the server does not offer', { tls: 'require' as const }, password, 'tls'],
  ])('says in plain words that there is %s', async (_, change, secret, code) => {
    const reason = await why(testMaria({ ...connection, ...change, password: secret }, now));
    expect(reason).toMatch(code);
    expect(reason).not.toContain('low tide');
  });
  test('tells its tables, types, keys and foreign keys', async () => {
    const { table, made } = await calls();
    expect(Object.fromEntries(table.columns.map(({ name, type }) => [name, type]))).toEqual({
      id: 'integer',
      berth_id: 'integer',
      fee: 'decimal',
      late: 'boolean',
      on_day: 'date',
      at: 'instant',
      note: 'text',
      extra: 'text',
      big: 'decimal',
      share: 'float',
    });
    expect(made.key).toBe('id');
    expect(made.fields.map(({ name }) => name)).toContain('berth');
  });
  test('gives records of a table to the last digit, with what is looked up', async () => {
    const { made } = await calls();
    const rows = await fetched(made.request, made.fields);
    const at = (name: string) => made.fields.findIndex((field) => field.name === name);
    const first = rows.find(([id]) => id === '9007199254740993') ?? [];
    expect(
      ['fee', 'late', 'on_day', 'at', 'note', 'big', 'share', 'berth'].map((name) => first[at(name)]),
    ).toEqual([
      '12345678901234.567891',
      true,
      '2026-11-23',
      '2026-11-23T06:40:00.123456Z',
      "a'b",
      '18446744073709551615',
      0.5,
      'North',
    ]);
    const second = rows.find(([id]) => id === '2') ?? [];
    expect(['fee', 'late', 'on_day', 'at', 'note', 'berth'].map((name) => second[at(name)])).toEqual([
      '0.1',
      false,
      null,
      null,
      null,
      null,
    ]);
    const tried = await tryMaria(connection, made.request as never, made.fields, {}, 2);
    expect(tried).toMatchObject({ more: true });
    expect(tried.records).toHaveLength(2);
  });
  test('is asked only for what is new, exactly, and for what a filter leaves', async () => {
    const { made } = await calls();
    const since = await fetched(made.request, made.fields, {
      since: { field: 'id', value: '9007199254740992', inclusive: false },
    });
    expect(since.map(([id]) => id)).toEqual(['9007199254740993']);
    const moment = await fetched(made.request, made.fields, {
      since: { field: 'at', value: '2026-11-23T06:40:00.123456Z', inclusive: false },
    });
    expect(moment.map(([id]) => id)).toEqual(['3']);
    const kept = await fetched(made.request, made.fields, {
      where: { field: 'id', test: { op: 'below', value: '3' } },
    });
    expect(kept.map(([id]) => id)).toEqual(['2']);
  });
  test('answers SQL of one’s own, with inputs bound', async () => {
    const text =
      'SELECT c.id, b.name AS "berth", c.fee FROM `calls "odd"` c LEFT JOIN berths b ON b.id = c.berth_id WHERE b.name = :name';
    const inputs = { name: { type: 'text' as const, value: "North' OR '1'='1" } };
    const request = { kind: 'sql' as const, text, columns: [] };
    expect((await tryMaria(connection, request, [], inputs)).records).toEqual([]);
    const tried = await tryMaria(connection, request, [], {
      name: { type: 'text', value: 'North' },
    });
    expect(tried.fields).toEqual([
      { name: 'id', type: 'integer' },
      { name: 'berth', type: 'text' },
      { name: 'fee', type: 'decimal' },
    ]);
    expect(tried.records).toEqual([['9007199254740993', 'North', '12345678901234.567891']]);
    const rows = await fetched(tried.request, tried.fields, {
      inputs: { name: { type: 'text', value: 'North' } },
      since: { field: 'id', value: '5', inclusive: true },
    });
    expect(rows).toHaveLength(1);
  });
  test('can change nothing, whoever the user is', async () => {
    const asRoot = { ...connection, user: 'root', password: '' };
    const request = { kind: 'sql' as const, text: 'SELECT nextval(s) FROM (SELECT 1) x', columns: [] };
    await root.query('CREATE SEQUENCE harbour.s');
    expect(await why(tryMaria(asRoot, request, [], {}))).toMatch(/forbidden|bad-request/);
  });
});
