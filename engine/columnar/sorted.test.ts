import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, expect, test } from 'vitest';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { compile, compileOrdered } from '#core/sql/compile.ts';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { columnarRecords } from '#testing/columnar-records.ts';
import { ColumnarDatabase } from './database.ts';
import { runColumnar } from './run.ts';
import { sortBehind, sortedPage, sortsDone } from './sorted.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-sorted-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test('a page from a sorted file is the page that sorting everything gives, ties and blanks in their places', async () => {
  const fields = [
    { name: 'id', type: 'integer' as const },
    { name: 'gate', type: 'text' as const },
    { name: 'fare', type: 'decimal' as const },
    { name: 'at', type: 'instant' as const },
  ];
  const database = await columnarRecords(
    folder,
    fields,
    Array.from({ length: 9000 }, (_, n) => [
      String(n),
      n % 7 === 0 ? null : `Gate ${'äBcD'.charAt(n % 4)}`,
      `${n % 90}.${n % 10}`,
      n % 11 === 0 ? null : new Date(1_795_416_000_000 + (n % 500) * 1000).toISOString(),
    ]),
  );
  const plan = (offset: number): RecordsPlan => ({
    kind: 'records',
    from: { source: 's', request: { kind: 'kept', name: 'v1' }, inputs: {}, fields },
    where: { all: [] },
    zone: 'UTC',
    fields: ['gate', 'id', 'fare', 'at'],
    order: [{ by: 'gate' }, { by: 'at', descending: true }],
    key: 'id',
    offset,
    limit: 50,
  });
  const page = (offset: number) =>
    sortedPage(folder, compileOrdered(plan(offset), duckdb), plan(offset).fields, plan(offset));
  const doing = { doing: 'testing' };
  expect(page(0)).toBeNull();
  // Asked for twice, it is made once.
  for (const offset of [0, 50]) sortBehind(database, folder, compileOrdered(plan(offset), duckdb));
  await sortsDone();
  for (const offset of [0, 50, 4321, 8970, 9000]) {
    const query = page(offset);
    expect(query).not.toBeNull();
    if (!query) continue;
    const expected = await runColumnar(database, compile(plan(offset), duckdb), doing);
    expect((await runColumnar(database, query, doing)).records).toEqual(expected.records);
  }
  expect(readdirSync(folder).filter((name) => name.startsWith('writing-'))).toEqual([]);
  await database.close();
});

test('a query with values in it is not written to a file', async () => {
  const database = await ColumnarDatabase.open({ folder });
  const query = { text: 'SELECT $1', values: ['1'] };
  sortBehind(database, folder, query);
  await sortsDone();
  expect(readdirSync(folder).filter((name) => name.startsWith('sorted-'))).toHaveLength(1);
  expect(sortedPage(folder, query, ['x'], { offset: 0, limit: 1 })).toBeNull();
  await database.close();
});
