import { sql } from 'drizzle-orm';
import type { NodePgDatabase } from 'drizzle-orm/node-postgres';
import { database } from './database.ts';

/** As many ids as one notice of PostgreSQL has room for (8,000 bytes). */
const mostInNotice = 200;

/** The data sets that a notice is about. */
export const noticedIds = (notice: string): string[] => notice.split(' ');

/**
 * What changes records ends in this, whatever it was: every open page that shows those data sets, or what is made of them, asks
 * again. Within a transaction the pages hear of it once it has ended well.
 */
export async function dataChanged(
  dataSetIds: readonly string[],
  within: Pick<NodePgDatabase, 'execute'> = database(),
): Promise<void> {
  // In one notice, so that a page which shows several of them asks once.
  for (let at = 0; at < dataSetIds.length; at += mostInNotice)
    await within.execute(
      sql`SELECT pg_notify('slate_changed', ${dataSetIds.slice(at, at + mostInNotice).join(' ')})`,
    );
}
