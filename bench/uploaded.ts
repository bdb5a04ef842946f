import { randomUUID } from 'node:crypto';
import { DuckDBInstance } from '@duckdb/node-api';
import { database } from '#server/store/database.ts';
import { users } from '#server/store/tables/people.ts';
import { uploadedFile } from '#server/uploads/files.ts';
import { acceptNew, lookAtFile } from '#server/uploads/look.ts';

/** A data set of what a query of DuckDB's gives, uploaded as a file is; its id. */
export async function uploaded(name: string, query: string): Promise<string> {
  const id = randomUUID();
  const [author] = await database().select({ id: users.id }).from(users).limit(1);
  const instance = await DuckDBInstance.create(':memory:');
  const connection = await instance.connect();
  await connection.run(`COPY (${query}) TO '${uploadedFile(id)}' (FORMAT parquet)`);
  connection.closeSync();
  instance.closeSync();
  const { reading, fields } = await lookAtFile(id);
  const noun = { one: 'record', many: 'records' };
  await acceptNew({ id, file: id, name, noun, reading, fields, by: author?.id ?? null });
  return id;
}
