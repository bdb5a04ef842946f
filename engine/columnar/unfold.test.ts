import { DuckDBInstance } from '@duckdb/node-api';
import { expect, test } from 'vitest';
import { duckdb } from '#core/sql/dialect/columnar/dialect.ts';
import { sql } from '#core/sql/fragment.ts';
import { textOf } from './quote.ts';

test('a record with a list of a megabyte is unfolded within 200 MB', async () => {
  const instance = await DuckDBInstance.create(':memory:', { threads: '2', memory_limit: '200MB' });
  const connection = await instance.connect();
  const calls = Array.from({ length: 1707 }, (_, at) => ({ call: at, note: 'fog '.repeat(150) }));
  await connection.run('CREATE TABLE log AS SELECT 1 AS id, $1::VARCHAR AS calls', [JSON.stringify(calls)]);
  const { from, item, place } = duckdb.scalar.unfolded(sql`(SELECT * FROM log) AS s`, sql`s.calls`, false);
  const read = await connection.runAndReadAll(
    textOf(sql`SELECT count(*), max(${place}), max(length(${item})) FROM ${from}`),
  );
  expect(read.getRows().map((row) => row.map(Number))).toEqual([
    [1707, 1707, JSON.stringify(calls[1706]).length],
  ]);
  connection.closeSync();
});
