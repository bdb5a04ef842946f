import { type AddressInfo, connect, createServer, type Server } from 'node:net';
import mysql, { type Connection as Session } from 'mysql2/promise';
import { afterAll, beforeAll, beforeEach, describe, expect, inject, test } from 'vitest';
import type { Change, LineChange, Values } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Changing, NotedChanges } from '../change.ts';
import { mariaChanges } from './change.ts';
import type { MariaAddress } from './connect.ts';
import { discoverMaria } from './look.ts';

/* Against a real server. */

let root: Session;
let address: MariaAddress;

beforeAll(async () => {
  root = await mysql.createConnection({
    host: '127.0.0.1',
    port: inject('mariaPort'),
    user: 'root',
    multipleStatements: true,
    dateStrings: true,
  });
  await root.query(`
    DROP DATABASE IF EXISTS quay; CREATE DATABASE quay CHARACTER SET utf8mb4; USE quay;
    CREATE TABLE \`odd "orders\` (id INT PRIMARY KEY AUTO_INCREMENT, title VARCHAR(40) NOT NULL, cost DECIMAL(12,2), due DATE, done_at DATETIME(6),
      share DOUBLE, urgent TINYINT(1), at ENUM('north', 'so''uth'), extra JSON, hours INT CHECK (hours >= 0), twice INT AS (hours * 2) STORED);
    CREATE USER quay_changes IDENTIFIED BY 'x'; GRANT SELECT, INSERT, UPDATE, DELETE ON quay.* TO quay_changes;
    CREATE USER quay_reads IDENTIFIED BY 'x'; GRANT SELECT ON quay.* TO quay_reads;`);
  address = {
    kind: 'mariadb',
    host: '127.0.0.1',
    port: inject('mariaPort'),
    database: 'quay',
    user: 'quay_changes',
    tls: 'off',
    password: 'x',
    allowed: ['127.0.0.1'],
  };
});
beforeEach(async () => {
  await root.query(`TRUNCATE \`odd "orders\`;
    INSERT INTO \`odd "orders\` (id, title, cost, due, done_at, share, urgent, at, extra, hours)
    SELECT seq, concat('order ', seq), 10.50, '2026-11-01', '2026-11-02 03:04:05.678901', 0.1, 0, 'north', '{"a": 1}', 3 FROM seq_1_to_5`);
});
afterAll(async () => {
  await root.query('DROP DATABASE quay; DROP USER quay_changes; DROP USER quay_reads');
  await root.end();
});

const columns: Column[] = [
  { column: 'title', name: 'title', type: 'text', filled: true },
  { column: 'cost', name: 'cost', type: 'decimal' },
  { column: 'due', name: 'due', type: 'date' },
  { column: 'done_at', name: 'done', type: 'instant' },
  { column: 'share', name: 'share', type: 'float' },
  { column: 'urgent', name: 'urgent', type: 'boolean' },
  { column: 'at', name: 'berth', type: 'text' },
  { column: 'extra', name: 'extra', type: 'nested' },
  { column: 'hours', name: 'hours', type: 'integer' },
];
const asItIs = {
  title: 'order 1',
  cost: '10.50',
  due: '2026-11-01',
  done: '2026-11-02T03:04:05.678901Z',
  share: '0.1',
  urgent: 'false',
  berth: 'north',
  extra: '{"a": 1}',
  hours: '3',
};

const changing = (changes: readonly Change[], more: Partial<Changing> = {}): Changing => ({
  place: {
    kind: 'one-table',
    schema: 'quay',
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
const run = (changes: readonly Change[], more: Partial<Changing> = {}, at: MariaAddress = address) =>
  mariaChanges(at).change(changing(changes, more));
const costs = async (): Promise<string[]> =>
  ((await root.query('SELECT cost FROM `odd "orders` ORDER BY id'))[0] as { cost: string }[]).map(
    ({ cost }) => cost,
  );
const setCost = (key: string, to: string, expected: Record<string, string> = {}): Change => ({
  way: 'update',
  key,
  expected,
  values: { cost: to },
});

describe('a change in MariaDB', () => {
  test('of every type is compared with what was seen and comes back as it is read, to the last digit', async () => {
    const values = {
      title: `O’Brien "; DROP TABLE -- 🚢 true`,
      cost: '9999999999.99',
      due: '2028-02-29',
      done: '2026-12-31T23:59:59.999999Z',
      share: '0.30000000000000004',
      urgent: 'true',
      berth: "so'uth",
      extra: '{"b": [2]}',
      hours: '0',
    };
    const result = await run([{ way: 'update', key: '1', expected: asItIs, values }]);
    expect(result).toEqual({ state: 'done', records: [{ key: '1', before: asItIs, after: values }] });
    const back = await run([{ way: 'update', key: '1', expected: values, values: asItIs }]);
    expect(back).toMatchObject({ state: 'done', records: [{ after: asItIs }] });
    // What reads as true of a field of text stays that.
    const word = await run([{ way: 'update', key: '1', expected: {}, values: { title: 'true' } }]);
    expect(word).toMatchObject({ state: 'done', records: [{ after: { title: 'true' } }] });
  });

  test('of many records is made of all or of none: a conflict says how they are, and nothing is changed', async () => {
    await root.query(
      'UPDATE `odd "orders` SET cost = 7 WHERE id = 4; DELETE FROM `odd "orders` WHERE id = 5',
    );
    const result = await run(['1', '2', '3', '4', '5'].map((key) => setCost(key, '1.00', { cost: '10.50' })));
    expect(result).toMatchObject({
      state: 'conflict',
      conflicts: [
        { key: '4', is: { cost: '7.00' } },
        { key: '5', is: null },
      ],
    });
    expect(await costs()).toEqual(['10.50', '10.50', '10.50', '7.00']);
  });

  test('that the database refuses is made of none: a constraint, a value that it would have cut off, a member that there is not', async () => {
    const tooFew = run([
      setCost('1', '5'),
      { way: 'update', key: '2', expected: {}, values: { hours: '-1' } },
    ]);
    await expect(tooFew).rejects.toThrow(/CONSTRAINT/);
    const wrong: Values[] = [
      { title: 'x'.repeat(41) },
      { berth: 'east' },
      { title: null },
      { cost: '99999999999' },
    ];
    for (const values of wrong)
      await expect(run([{ way: 'update', key: '1', expected: {}, values }])).rejects.toBeInstanceOf(
        ProblemError,
      );
    expect(await costs()).toEqual(Array(5).fill('10.50'));
  });

  test('adds and removes, with what the source made of it', async () => {
    const result = await run([
      { way: 'insert', values: { title: 'new', cost: '1' } },
      { way: 'remove', key: '1', expected: { title: 'order 1' } },
    ]);
    expect(result).toMatchObject({
      state: 'done',
      records: [
        { key: '6', before: null, after: { title: 'new', cost: '1.00' } },
        { key: '1', before: asItIs, after: null },
      ],
    });
    expect((await costs()).length).toBe(5);
  });

  test('adds a record with its lines and removes it with them, all or none', async () => {
    await root.query(
      'CREATE TABLE parts (id INT PRIMARY KEY AUTO_INCREMENT, order_id INT NOT NULL, amount INT CHECK (amount > 0))',
    );
    const id: Column = { column: 'id', name: 'id', type: 'integer' };
    const refers: Column = { column: 'order_id', name: 'order', type: 'integer' };
    const lines = (changes: readonly LineChange[]): Partial<Changing> => ({
      lines: {
        place: { kind: 'one-table', schema: 'quay', table: 'parts', key: id },
        columns: [{ column: 'amount', name: 'amount', type: 'integer' }],
        refers,
        member: null,
        changes,
      },
    });
    const added = { way: 'insert', values: { title: 'new' } } as const;
    const part = (amount: string): LineChange => ({ way: 'insert', values: { amount } });
    const there = async () =>
      (await root.query('SELECT order_id, amount FROM parts ORDER BY amount'))[0] as unknown[];
    await expect(run([added], lines([part('1'), part('-1')]))).rejects.toThrow();
    expect([await there(), (await costs()).length]).toEqual([[], 5]);
    const done = await run([added], lines([part('1'), part('2')]));
    if (done.state !== 'done') throw new Error(done.state);
    const [order, ...parts] = done.records;
    const own = Number(order?.key);
    expect(await there()).toEqual([
      { order_id: own, amount: 1 },
      { order_id: own, amount: 2 },
    ]);
    expect(parts.map(({ isLine, after }) => [isLine, after])).toEqual([
      [true, { amount: '1', order: String(own) }],
      [true, { amount: '2', order: String(own) }],
    ]);
    const remove = (amounts: readonly string[]) =>
      run(
        [{ way: 'remove', key: String(own), expected: { title: 'new' } }],
        lines(
          parts.map(({ key }, at) => ({ way: 'remove', key, expected: { amount: amounts[at] ?? null } })),
        ),
      );
    expect(await remove(['1', '3'])).toMatchObject({ state: 'conflict', conflicts: [{ isLine: true }] });
    expect(await there()).toHaveLength(2);
    expect(await remove(['1', '2'])).toMatchObject({ state: 'done' });
    expect([await there(), (await costs()).length]).toEqual([[], 5]);
  });

  test('that is not to end after all leaves nothing behind, and neither does one whose connection is lost before its end', async () => {
    const stopped = run([setCost('1', '1')], {
      beforeEnd: async () => {
        throw new Error('our own database is away');
      },
    });
    await expect(stopped).rejects.toThrow('our own database is away');
    const lost = run([setCost('1', '1')], {
      beforeEnd: async () => {
        const [rows] = await root.query(
          "SELECT id FROM information_schema.processlist WHERE user = 'quay_changes'",
        );
        for (const { id } of rows as { id: number }[]) await root.query(`KILL ${id}`);
      },
    });
    await expect(lost).rejects.toBeInstanceOf(ProblemError);
    expect(await costs()).toEqual(Array(5).fill('10.50'));
  });

  test('that was made though nobody heard of it is found to be made, and not made twice', async () => {
    // Lets the end of a transaction through, and not what the server says to it.
    const proxy: Server = createServer((near) => {
      const far = connect(inject('mariaPort'), '127.0.0.1');
      let isCut = false;
      near.on('data', (piece) => {
        if (piece.includes('COMMIT')) isCut = true;
        far.write(piece);
      });
      far.on('data', (piece) => {
        if (isCut) near.destroy();
        else near.write(piece);
      });
      for (const [one, other] of [
        [near, far],
        [far, near],
      ] as const) {
        one.on('error', () => undefined);
        one.on('close', () => other.end());
      }
    });
    await new Promise<void>((resolve) => proxy.listen(0, '127.0.0.1', resolve));
    let notes: NotedChanges | undefined;
    const result = await run(
      [
        setCost('2', '1.00', { cost: '10.50' }),
        { way: 'insert', values: { title: 'added' } },
        { way: 'remove', key: '3', expected: {} },
      ],
      {
        beforeEnd: async (mark, records) => {
          notes = { mark, place: changing([]).place, columns, records };
        },
      },
      { ...address, port: (proxy.address() as AddressInfo).port },
    );
    expect(result).toMatchObject({
      state: 'done',
      records: [{ key: '2' }, { key: '6' }, { key: '3', after: null }],
    });
    expect(await costs()).toEqual(['10.50', '1.00', '10.50', '10.50', null]);
    // Whoever asks later is told the same, until somebody else changes one of them.
    if (!notes) throw new Error('nothing was noted');
    expect(await mariaChanges(address).outcomes(notes)).toEqual([true, true, true]);
    await root.query('UPDATE `odd "orders` SET cost = 2 WHERE id = 2');
    expect(await mariaChanges(address).outcomes(notes)).toEqual([null, null, null]);
    proxy.close();
  });

  test('waits for whoever holds the record, and then sees what they made of it; for one who never ends it gives up', async () => {
    await root.query('START TRANSACTION');
    await root.query('UPDATE `odd "orders` SET cost = 8 WHERE id = 3');
    const waiting = run([setCost('3', '1', { cost: '10.50' })]);
    // The server tells who waits from what it gathered a tenth of a second ago, and gathers nothing while it is asked more often.
    await expect
      .poll(
        async () => {
          const [rows] = await root.query(
            "SELECT count(*) AS n FROM information_schema.innodb_trx WHERE trx_state = 'LOCK WAIT'",
          );
          return (rows as { n: number }[])[0]?.n;
        },
        { interval: 300, timeout: 5_000 },
      )
      .toBeGreaterThan(0);
    await root.query('COMMIT');
    expect(await waiting).toMatchObject({
      state: 'conflict',
      conflicts: [{ key: '3', is: { cost: '8.00' } }],
    });
    await root.query('START TRANSACTION; UPDATE `odd "orders` SET cost = 9 WHERE id = 3');
    await expect(run([setCost('3', '1')])).rejects.toThrow('somebody else is changing one of these records');
    await root.query('ROLLBACK');
  });

  test('by a user who may only read changes nothing; who may change something is told from who may not', async () => {
    const reads = { ...address, user: 'quay_reads' };
    await expect(run([setCost('1', '1')], {}, reads)).rejects.toBeInstanceOf(ProblemError);
    await expect(mariaChanges(reads).test()).rejects.toThrow('may not change any table');
    expect((await mariaChanges(address).test()).facts).toContainEqual({
      name: 'May change',
      value: 'something',
    });
  });

  test('what a column takes is found: how long, one of which, whether the server fills it', async () => {
    const table = (await discoverMaria(address)).find(({ name }) => name === 'odd "orders');
    const column = (name: string) => table?.columns.find((each) => each.name === name);
    expect(column('title')).toMatchObject({ longest: 40, mayBeBlank: false });
    expect(column('title')?.usual).toBeUndefined();
    expect(column('at')).toMatchObject({ among: ['north', "so'uth"] });
    expect(column('id')).toMatchObject({ usual: true });
    expect(column('twice')).toMatchObject({ made: true });
  });
});
