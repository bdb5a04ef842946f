import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { endPools } from '#engine/postgres/pool.ts';
import { testDatabase } from '#testing/database.ts';
import { ColumnarDatabase } from '../engine/columnar/database.ts';

/* The same records in a PostgreSQL table and in Parquet files, for tests that both engines mean the same. */

/** A column with its type in PostgreSQL and in DuckDB. */
export interface PairColumn {
  readonly name: string;
  readonly postgres: string;
  readonly duckdb: string;
}

/** Records as texts, in the order of the columns except for the first, which numbers them from 1. */
export type PairRows = readonly (readonly (string | null)[])[];

export type EnginePair = Awaited<ReturnType<typeof enginePair>>;

export async function enginePair() {
  const folder = mkdtempSync(path.join(tmpdir(), 'slate-pair-'));
  const database = await testDatabase({ collation: true });
  const writer = await DuckDBInstance.create(':memory:');
  const columnar = await ColumnarDatabase.open({ folder });
  let written = 0;
  return {
    database,
    columnar,

    createTable: (table: string, columns: readonly PairColumn[]) =>
      database.client.query(
        `CREATE TABLE ${table} (${columns.map(({ name, postgres }) => `"${name}" ${postgres}`).join(', ')})`,
      ),

    /** Puts records in place of those that a table has, in both; several files, some of them without records, make one version. */
    async fill(table: string, columns: readonly PairColumn[], rows: PairRows, files = 1): Promise<void> {
      const numbered = rows.map((row, index) => [String(index + 1), ...row]);
      await database.client.query(`TRUNCATE ${table}`);
      await database.client.query(
        `INSERT INTO ${table} SELECT * FROM unnest(${columns.map(({ postgres }, at) => `$${at + 1}::${postgres}[]`).join(', ')})`,
        columns.map((_, at) => numbered.map((row) => row[at] ?? null)),
      );
      const connection = await writer.connect();
      const columnsSql = columns.map(({ name, duckdb }) => `"${name}" ${duckdb}`).join(', ');
      // As records are written that are kept: an empty text is a blank.
      const record = (at: number): string =>
        `(${columns.map(({ duckdb }, column) => `CAST(nullif($${at * columns.length + column + 1}, '') AS ${duckdb})`).join(', ')})`;
      const names: string[] = [];
      for (let file = 0; file < files; file += 1) {
        await connection.run(`CREATE OR REPLACE TABLE part (${columnsSql})`);
        const part = numbered.filter((_, index) => index % files === file);
        if (part.length > 0)
          await connection.run(
            `INSERT INTO part VALUES ${part.map((_, at) => record(at)).join(', ')}`,
            part.flat(),
          );
        written += 1;
        const name = path.join(folder, `${written}.parquet`);
        await connection.run(`COPY part TO '${name}' (FORMAT parquet)`);
        names.push(`'${name}'`);
      }
      connection.closeSync();
      const reading = await columnar.connect();
      await reading.run(
        `CREATE OR REPLACE VIEW kept.${table} AS SELECT * FROM read_parquet([${names.join(', ')}])`,
      );
      reading.closeSync();
    },

    async close(): Promise<void> {
      await endPools();
      await database.client.end();
      writer.closeSync();
      await columnar.close();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
