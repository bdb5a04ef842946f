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

/**
 * The query for a page of a query without bound values, from its sorted file; null while there is none, and then, for a page that
 * is `far`, it is begun, behind everybody's back. `query` has no limit of its own.
 */
export function sortedPage(
  database: ColumnarDatabase,
  folder: string,
  query: Query,
  fields: readonly string[],
  page: { readonly offset: number; readonly limit: number },
  isFar = true,
): Query | null {
  if (query.values.length > 0) return null;
  const file = fileOf(folder, query);
  if (existsSync(file)) {
    const columns = fields.map((name) => textOf(identifier(name))).join(', ');
    const { offset, limit } = page;
    return {
      text: `SELECT ${columns} FROM read_parquet(${literalText(file)}, file_row_number = true)
        WHERE file_row_number >= ${Math.trunc(offset)} AND file_row_number < ${Math.trunc(offset + limit)} ORDER BY file_row_number`,
      values: [],
    };
  }
  if (isFar && !making.has(file))
    making.set(
      file,
      make(database, folder, file, query).finally(() => making.delete(file)),
    );
  return null;
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
