import { createHash, randomUUID } from 'node:crypto';
import { existsSync, rmSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import path from 'node:path';
import type { Query } from '#core/sql/compile.ts';
import { identifier } from '#core/sql/fragment.ts';
import type { ColumnarDatabase } from './database.ts';
import { literalText, textOf } from './quote.ts';

/*
 * Records in an order, as a file: a page anywhere in it is read by its place, where the query would have to put everything
 * before it in order first. Like segments these are files of the cache, made at will and thrown away at will.
 */

const making = new Map<string, Promise<void>>();

/** The file of a query's records in its order. The records must never change, so the query names a version. */
function fileOf(folder: string, { text }: Query): string {
  return path.join(folder, `sorted-${createHash('sha256').update(text).digest('hex')}.parquet`);
}

/** Whether a query's records can be a file: with bound values they are of one question, and are not asked for again. */
const mayBeFile = ({ values }: Query): boolean => values.length === 0;

/** The query for a page of a query, from its sorted file; null while there is none. `query` has no limit of its own. */
export function sortedPage(
  folder: string,
  query: Query,
  fields: readonly string[],
  { offset, limit }: { readonly offset: number; readonly limit: number },
): Query | null {
  const file = fileOf(folder, query);
  if (!mayBeFile(query) || !existsSync(file)) return null;
  const columns = fields.map((name) => textOf(identifier(name))).join(', ');
  return {
    text: `SELECT ${columns} FROM read_parquet(${literalText(file)}, file_row_number = true)
        WHERE file_row_number >= ${Math.trunc(offset)} AND file_row_number < ${Math.trunc(offset + limit)} ORDER BY file_row_number`,
    values: [],
  };
}

/** Begins to make the sorted file of a query, behind everybody's back, where there can be one and is none. */
export function sortBehind(database: ColumnarDatabase, folder: string, query: Query): void {
  const file = fileOf(folder, query);
  if (!mayBeFile(query) || existsSync(file) || making.has(file)) return;
  making.set(
    file,
    make(database, folder, file, query).finally(() => making.delete(file)),
  );
}

/** Waits for the files that are being made. */
export async function sortsDone(): Promise<void> {
  await Promise.all(making.values());
}

async function make(database: ColumnarDatabase, folder: string, file: string, query: Query): Promise<void> {
  const part = path.join(folder, `writing-${randomUUID()}`);
  const connection = await database.connect();
  try {
    await connection.run(`COPY (${query.text}) TO ${literalText(part)} (FORMAT parquet, COMPRESSION zstd)`);
    await rename(part, file);
  } catch {
    // Without it a page takes longer, and that is all.
    rmSync(part, { force: true });
  } finally {
    connection.closeSync();
  }
}
