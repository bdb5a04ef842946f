import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { compile } from '#core/sql/compile.ts';
import { postgresLiterals } from '#core/sql/dialect/postgres/literal.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { type Cell, cellText } from '#core/value/field/value.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { endPools } from '#engine/postgres/pool.ts';
import { testDatabase } from '#testing/database.ts';
import { copyInto } from './copy.ts';
import { readPlan } from './read.ts';

/* Copied by PostgreSQL itself, records are the same as read value by value. */

let database: Awaited<ReturnType<typeof testDatabase>>;
const folder = mkdtempSync(path.join(tmpdir(), 'slate-copy-'));
const types: Record<string, FieldType> = {
  id: 'integer',
  big: 'integer',
  fare: 'decimal',
  share: 'float',
  small: 'float',
  note: 'text',
  on_day: 'date',
  at: 'instant',
  local: 'instant',
  paid: 'boolean',
  doc: 'nested',
};
const fields = Object.entries(types).map(([name, type]) => ({ name, type }));

beforeAll(async () => {
  database = await testDatabase();
  await database.client.query(String.raw`
    CREATE TABLE odd (id bigint, big bigint, fare numeric, share float8, small real, note text, on_day date, at timestamptz, local timestamp, paid boolean, doc jsonb);
    INSERT INTO odd VALUES
      (1, 9223372036854775807, 12345678901234567890.120, 0.1, 0.1, 'plain', '2026-11-23', '2026-11-23 06:40:00.123456+00', '2026-11-23 06:40', true, '{"a": [1, "x"]}'),
      (2, -9223372036854775808, -0.00000001, 'NaN', '-Infinity', E'a "quoted", \\ text\r\nwith\ttabs', '0001-01-01', '1969-12-31 23:59:59.5+00', '1969-12-31 23:59:59.5', false, '[]'),
      (3, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL, NULL),
      (4, 0, 0, 1e300, 1e-30, '', '9999-12-31', '9999-12-31 23:59:59.999999+00', '0001-01-01', true, 'null'),
      (5, 1, 1, -1e-300, 16777217, '\N', '2026-01-01', '2026-06-23 06:40:00+01', '2026-01-01', false, '"\\N"'),
      (6, 1, 1, 1, 1, '\.', '2026-01-01', '2026-01-01', '2026-01-01', true, '{"text": "a,\"b\"\nc"}'),
      (7, 1, 1, 1, 1, E'🚢 \u202e right to left \u0001', '2026-01-01', '2026-01-01', '2026-01-01', true, '1');
    INSERT INTO odd (id, note) SELECT n, repeat('long "text", ', 20) FROM generate_series(8, 5000) AS n;
    INSERT INTO odd (id, note) VALUES (5001, repeat(E'one record\n', 400000))`);
});
afterAll(async () => {
  await endPools();
  await database.client.end();
  rmSync(folder, { recursive: true, force: true });
});

const planOf = (names: readonly string[], where: RecordsPlan['where'] = { all: [] }): RecordsPlan => ({
  kind: 'records',
  from: {
    source: 'test',
    request: {
      kind: 'table',
      schema: 'public',
      table: 'odd',
      columns: fields
        .filter(({ name }) => names.includes(name))
        .map(({ name, type }) => ({
          column: name,
          name,
          type,
          ...(name === 'local' ? { read: 'utc' as const } : name === 'doc' ? { read: 'text' as const } : {}),
        })),
      lookUps: [],
    },
    inputs: {},
    fields: fields.filter(({ name }) => names.includes(name)),
  },
  where,
  zone: 'UTC',
  fields: names,
  order: [],
  offset: 0,
  limit: Number.MAX_SAFE_INTEGER,
});

const asking = (told: number[] = []) => ({
  doing: 'testing',
  progress: async (records: number) => void told.push(records),
});

/** The records of a plan typed by the columnar engine, put in by one of the two ways. */
async function typed(plan: RecordsPlan, put: (writer: SegmentWriter) => Promise<unknown>): Promise<Cell[][]> {
  const writer = await SegmentWriter.open(folder, plan.fields);
  try {
    await put(writer);
    const wanted = plan.fields.map((name) => ({ name, type: types[name] ?? 'text' }) as const);
    await writer.type(await writer.scaled(wanted));
    return await writer.typedFirst(10_000);
  } finally {
    writer.close();
  }
}

const copied = (plan: RecordsPlan) =>
  typed(plan, (writer) => copyInto(writer, database.address, plan, asking()));
const read = (plan: RecordsPlan) =>
  typed(plan, (writer) =>
    readPlan(database.address, plan, 'testing', (records) =>
      writer.add(records.map((record) => record.map(cellText))),
    ),
  );

describe('records that are copied', () => {
  test('are those that are read value by value, whatever is in them', async () => {
    const plan = planOf(Object.keys(types));
    const found = await copied(plan);
    expect(found).toHaveLength(5001);
    expect(found).toEqual(await read(plan));
    expect(found[1]?.[5]).toBe('a "quoted", \\ text\r\nwith\ttabs');
    expect(found[4]?.[5]).toBe('\\N');
  });

  test('of one field are all there, blanks too', async () => {
    const plan = planOf(['note']);
    const found = await copied(plan);
    expect(found).toHaveLength(5001);
    expect([found[2], found[3]]).toEqual([[null], [null]]);
  });

  test('are counted as they come, each once, however many lines it is', async () => {
    const told: number[] = [];
    const plan = planOf(['id', 'note']);
    const writer = await SegmentWriter.open(folder, plan.fields);
    expect(await copyInto(writer, database.address, plan, asking(told))).toBe(5001);
    expect(told.reduce((sum, n) => sum + n, 0)).toBe(5001);
    writer.close();
  });

  test('end with whoever no longer wants them, and with what the database says', async () => {
    const writer = await SegmentWriter.open(folder, ['id']);
    const stopped = copyInto(writer, database.address, planOf(['id', 'note']), {
      doing: 'testing',
      progress: () => Promise.reject(new Error('stopped by somebody')),
    });
    await expect(stopped).rejects.toThrow(/stopped by somebody/);
    const gone = planOf(['id']);
    const lost = {
      ...gone,
      from: { ...gone.from, request: { ...gone.from.request, table: 'gone' } },
    } as RecordsPlan;
    await expect(copyInto(writer, database.address, lost, asking())).rejects.toThrow(
      /relation "public.gone" does not exist/,
    );
    writer.close();
  });
});

describe('values that stand in the text of a COPY', () => {
  test.each([
    ["it's", 'text'],
    ["'; DROP TABLE odd; --", 'text'],
    ['back\\slash \\n', 'text'],
    ['$1 ? :x "quoted"', 'text'],
    ['12345678901234567890.12', 'decimal'],
    ['2026-11-23T06:40:00.123456Z', 'instant'],
  ] as const)('are themselves: %s', async (value, type) => {
    const name = { text: 'note', decimal: 'fare', instant: 'at' }[type];
    await database.client.query(`INSERT INTO odd (id, ${name}) VALUES (-1, $1)`, [value]);
    for (const where of [
      { field: name, test: { op: 'same' as const, value } },
      {
        field: name,
        test: { op: 'is' as const, values: [value, 'other'].slice(0, type === 'text' ? 2 : 1) },
      },
    ]) {
      const { text } = compile(
        planOf(['id', name], { all: [{ field: 'id', test: { op: 'below', value: '0' } }, where] }),
        postgresLiterals,
      );
      const { rows } = await database.client.query({ text, rowMode: 'array' });
      expect(rows.map(([id]) => id)).toEqual(['-1']);
    }
    await database.client.query('DELETE FROM odd WHERE id < 0');
  });
});
