import { and, eq, exists, gt, inArray, lte, or, type SQL, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { kept, keptVersions, refreshes } from './tables/data-sets.ts';

/* When kept records are to be refreshed, and who asked for it. The workers hear of each moment. */

/** When a data set is to be refreshed next; null: only when asked for. The workers hear of it. */
export async function setNext(
  dataSetId: string,
  nextAt: Date | null,
  more: { askedAt?: SQL; changedAt?: Date } = {},
): Promise<void> {
  const set = { nextAt, ...more };
  await database()
    .insert(kept)
    .values({ dataSetId, ...set })
    .onConflictDoUpdate({ target: kept.dataSetId, set });
  if (nextAt) await ringAt(nextAt);
}

/**
 * When a data set is to be refreshed after a refresh that ends now: at once where another was asked for while it ran, which
 * may have come too late for it. `failures` are those in a row.
 */
export async function setNextAfter(
  refreshId: string,
  dataSetId: string,
  nextAt: Date | null,
  failures: number,
): Promise<void> {
  const [row] = await database()
    .insert(kept)
    .values({ dataSetId, nextAt, failures })
    .onConflictDoUpdate({
      target: kept.dataSetId,
      set: {
        nextAt: sql`CASE WHEN ${kept.askedAt} > (SELECT ${refreshes.startedAt} FROM ${refreshes} WHERE ${refreshes.id} = ${refreshId})
          THEN now() ELSE excluded.next_at END`,
        failures,
      },
    })
    .returning({ nextAt: kept.nextAt });
  if (row?.nextAt) await ringAt(row.nextAt);
}

/** Lets the workers hear of a moment at which something is due. */
const ringAt = async (moment: Date): Promise<void> => {
  await database().execute(sql`SELECT pg_notify('slate_due', ${moment.toISOString()})`);
};

export async function keptState(
  dataSetId: string,
): Promise<{ nextAt: string | null; failures: number } | null> {
  const [row] = await database().select().from(kept).where(eq(kept.dataSetId, dataSetId)).limit(1);
  return row ? { nextAt: row.nextAt?.toISOString() ?? null, failures: row.failures } : null;
}

/** How long what was taken on is left alone; a refresh that ends sets its own next moment. */
const leaseMs = 5 * 60_000;

/** Records that were true this much later than now were fetched by a clock that has been put back since. */
const clockMs = 60_000;

/**
 * Takes on the data sets whose refresh is due. One that was taken on and cut off is due again after a while; one whose moment was worked
 * out by a clock that was ahead is due now, lest it waits until then.
 */
export async function leaseDue(now: Date): Promise<string[]> {
  const leased = new Date(now.getTime() + leaseMs);
  const ahead = new Date(now.getTime() + clockMs);
  const fetchedAhead = database()
    .select({ id: keptVersions.id })
    .from(keptVersions)
    .where(and(eq(keptVersions.id, kept.versionId), gt(keptVersions.trueAt, ahead)));
  const rows = await database()
    .update(kept)
    .set({ nextAt: leased })
    .where(or(lte(kept.nextAt, now), and(gt(kept.nextAt, leased), exists(fetchedAhead))))
    .returning({ id: kept.dataSetId });
  return rows.map(({ id }) => id);
}

/** By the clock of the database, which says when a refresh began too. */
const askedAt = sql`now()`;

/** Asks for a refresh as soon as a worker is free, of records as they are from now on. */
export const askForRefresh = (dataSetId: string): Promise<void> =>
  setNext(dataSetId, new Date(), { askedAt });

/** Notes that records which a data set may show were changed where they come from, and asks for a refresh. */
export const noteChangedRecords = (dataSetId: string): Promise<void> => {
  const now = new Date();
  return setNext(dataSetId, now, { askedAt, changedAt: now });
};

/** Those of some data sets whose kept records are of before a change, with the moment of that (ISO 8601). */
export async function changesToCome(dataSetIds: readonly string[]): Promise<{ id: string; at: string }[]> {
  if (dataSetIds.length === 0) return [];
  const rows = await database()
    .select({ id: kept.dataSetId, at: kept.changedAt })
    .from(kept)
    .innerJoin(keptVersions, eq(keptVersions.id, kept.versionId))
    .where(and(inArray(kept.dataSetId, [...dataSetIds]), gt(kept.changedAt, keptVersions.trueAt)));
  return rows.flatMap(({ id, at }) => (at ? [{ id, at: at.toISOString() }] : []));
}

/** How long what is sent to a source is gathered before it is taken in. */
const gatherMs = 2_000;

/**
 * What is sent to a source is taken in soon: its followers are due in a moment, unless they are due before, or are only
 * refreshed by hand.
 */
export async function askDueFollowers(sourceId: string): Promise<void> {
  const soon = new Date(Date.now() + gatherMs);
  const { rowCount } = await database().execute(
    sql`UPDATE kept SET next_at = ${soon.toISOString()}, asked_at = now() FROM data_sets AS d
        WHERE d.id = kept.data_set_id AND d.source_id = ${sourceId} AND kept.next_at > ${soon.toISOString()} AND kept.failures = 0
          AND d.definition #>> '{keep,schedule,kind}' <> 'by hand'`,
  );
  if (rowCount) await ringAt(soon);
}
