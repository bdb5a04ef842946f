import { sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { database } from './database.ts';

/**
 * What changes records ends in this, whatever it was: every open page that shows those data sets, or what is made of them, asks
 * again. Within a transaction the pages hear of it once it has ended well.
 */
export async function dataChanged(
  dataSetIds: readonly string[],
  within: Pick<NodePgDatabase, 'execute'> = database(),
): Promise<void> {
  for (const id of dataSetIds) await within.execute(sql`SELECT pg_notify('slate_changed', ${id})`);
}
