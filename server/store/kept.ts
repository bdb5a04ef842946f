import { and, asc, desc, eq, exists, gt, inArray, lte, not, notExists, or, type SQL, sql } from 'drizzle-orm';
import type { Spans } from '#core/dataset/kept/spans.ts';
import type { RejectedRecord } from '#core/dataset/upload.ts';
import { type Problem, ProblemError } from '#core/value/problem/problem.ts';
import type { KeptField } from '#engine/columnar/kept-field.ts';
import type { WrittenSegment } from '#engine/columnar/segment.ts';
import { dataChanged } from './data-changed.ts';
import { database, inTransaction } from './database.ts';
import { fetched, kept, keptVersions, refreshes, rejects, segments, versionSegments } from './tables.ts';

/** What a process needs to know of a version to read it. */
export interface KeptVersion {
  readonly id: string;
  /** ISO 8601. */
  readonly trueAt: string;
  readonly records: number;
  readonly fields: readonly KeptField[];
  readonly spans: Spans;
  /** Where the fetch that made it ended. */
  readonly position: unknown;
  readonly segments: readonly { hash: string; records: number; size: number }[];
}

/** The version of a data set that readers get; null while there is none. */
export async function currentVersion(dataSetId: string): Promise<KeptVersion | null> {
  const rows = await database()
    .select({
      id: keptVersions.id,
      trueAt: keptVersions.trueAt,
      records: keptVersions.records,
      fields: keptVersions.fields,
      spans: keptVersions.spans,
      position: keptVersions.position,
      hash: versionSegments.hash,
      inSegment: segments.records,
      size: segments.size,
    })
    .from(kept)
    .innerJoin(keptVersions, eq(keptVersions.id, kept.versionId))
    .leftJoin(versionSegments, eq(versionSegments.versionId, keptVersions.id))
    .leftJoin(segments, eq(segments.hash, versionSegments.hash))
    .where(eq(kept.dataSetId, dataSetId))
    .orderBy(asc(versionSegments.position));
  const [first] = rows;
  if (!first) return null;
  return {
    id: first.id,
    trueAt: first.trueAt.toISOString(),
    records: first.records,
    fields: first.fields as KeptField[],
    spans: first.spans as Spans,
    position: first.position,
    segments: rows.flatMap(({ hash, inSegment, size }) =>
      hash === null ? [] : [{ hash, records: inSegment ?? 0, size: size ?? 0 }],
    ),
  };
}

/** Which versions of data sets readers get at this moment, by data set; those without one are left out. Versions themselves never change. */
export async function currentVersionIds(dataSetIds: readonly string[]): Promise<Map<string, string>> {
  const rows = await database()
    .select({ dataSetId: kept.dataSetId, id: kept.versionId })
    .from(kept)
    .where(inArray(kept.dataSetId, [...dataSetIds]));
  return new Map(rows.flatMap(({ dataSetId, id }) => (id === null ? [] : [[dataSetId, id]])));
}

/** The bytes of a segment; null when it is not there. */
export async function segmentContent(hash: string): Promise<Buffer | null> {
  const [row] = await database()
    .select({ content: segments.content })
    .from(segments)
    .where(eq(segments.hash, hash))
    .limit(1);
  return row?.content ?? null;
}

/** Stores a segment, unless one of the same content is there. A segment that no version names is collected later. */
export async function storeSegment(segment: WrittenSegment, content: Buffer): Promise<void> {
  await database()
    .insert(segments)
    .values({ hash: segment.hash, content, size: segment.size, records: segment.records })
    .onConflictDoUpdate({ target: segments.hash, set: { madeAt: sql`now()` } });
}

export interface NewVersion {
  readonly id: string;
  /** The version that it was made from, which readers must still have; null where they had none. */
  readonly before: string | null;
  readonly dataSetId: string;
  readonly trueAt: Date;
  readonly fields: readonly KeptField[];
  readonly spans: Spans;
  readonly position?: unknown;
  readonly segments: readonly { hash: string; records: number }[];
}

/**
 * Makes a version and gives it to readers, in one transaction: they have the one before until then, and this one after. Throws a
 * {@link ProblemError} when readers were given another one meanwhile, whose records would be lost.
 */
export async function swapVersion(version: NewVersion): Promise<void> {
  await inTransaction(async (tx) => {
    await tx.insert(keptVersions).values({
      id: version.id,
      dataSetId: version.dataSetId,
      trueAt: version.trueAt,
      records: version.segments.reduce((sum, { records }) => sum + records, 0),
      fields: version.fields,
      spans: version.spans,
      position: version.position ?? null,
    });
    if (version.segments.length > 0)
      await tx
        .insert(versionSegments)
        .values(version.segments.map(({ hash }, position) => ({ versionId: version.id, position, hash })));
    const given = await tx
      .insert(kept)
      .values({ dataSetId: version.dataSetId, versionId: version.id })
      .onConflictDoUpdate({
        target: kept.dataSetId,
        set: { versionId: version.id, failures: 0 },
        setWhere: sql`${kept.versionId} IS NOT DISTINCT FROM ${version.before}::uuid`,
      })
      .returning({ id: kept.dataSetId });
    if (given.length === 0)
      throw new ProblemError({
        code: 'stopped',
        doing: 'giving readers the new records',
        why: 'somebody else gave them newer ones meanwhile',
        mend: 'Nothing was changed. Do it again, on top of what is there now.',
      });
    await dataChanged([version.dataSetId], tx);
  });
}

/**
 * Lets go of versions that no reader can be in any more, and of segments that no version names. What a refresh has just
 * stored is younger than an hour, and stays.
 */
export async function collectOrphans(): Promise<{ versions: number; segments: number }> {
  const current = database()
    .select({ id: kept.versionId })
    .from(kept)
    .where(eq(kept.versionId, keptVersions.id));
  const versions = await database()
    .delete(keptVersions)
    .where(and(notExists(current), lte(keptVersions.madeAt, sql`now() - interval '10 minutes'`)))
    .returning({ id: keptVersions.id });
  const named = database()
    .select({ hash: versionSegments.hash })
    .from(versionSegments)
    .where(eq(versionSegments.hash, segments.hash));
  const isQuery = sql`EXISTS (SELECT 1 FROM ${fetched} WHERE ${fetched.segments} @> jsonb_build_array(jsonb_build_object('hash', ${segments.hash})))`;
  const gone = await database()
    .delete(segments)
    .where(and(notExists(named), not(isQuery), lte(segments.madeAt, sql`now() - interval '1 hour'`)))
    .returning({ hash: segments.hash });
  return { versions: versions.length, segments: gone.length };
}

export interface Refresh {
  readonly id: string;
  readonly state: 'running' | 'done' | 'failed' | 'stopped';
  readonly startedAt: string;
  readonly endedAt: string | null;
  readonly fetched: number;
  readonly kept: number | null;
  readonly rejected: number;
  readonly calls: number;
  readonly problem: Problem | null;
}

export async function beginRefresh(id: string, dataSetId: string): Promise<void> {
  // Whoever holds the data set's lock is the only one at it, so what still says that it runs was cut off.
  const interrupted: Problem = {
    code: 'stopped',
    doing: 'refreshing',
    why: 'it was cut off: the worker ended while it ran',
    mend: 'Nothing was changed. The next refresh begins again.',
  };
  await database()
    .update(refreshes)
    .set({ state: 'failed', endedAt: new Date(), problem: interrupted })
    .where(and(eq(refreshes.dataSetId, dataSetId), eq(refreshes.state, 'running')));
  await database().insert(refreshes).values({ id, dataSetId, state: 'running' });
}

/** Tells how far a refresh is. True when somebody asked it to stop. */
export async function tellProgress(id: string, fetched: number): Promise<boolean> {
  const [row] = await database()
    .update(refreshes)
    .set({ fetched })
    .where(eq(refreshes.id, id))
    .returning({ stop: refreshes.stopAsked });
  return row?.stop ?? true;
}

export async function endRefresh(
  id: string,
  ended: {
    state: 'done' | 'failed' | 'stopped';
    fetched: number;
    kept?: number;
    rejected?: number;
    calls?: number;
    problem?: Problem;
  },
): Promise<void> {
  await database()
    .update(refreshes)
    .set({ ...ended, endedAt: new Date() })
    .where(eq(refreshes.id, id));
}

export async function askToStop(dataSetId: string): Promise<void> {
  await database()
    .update(refreshes)
    .set({ stopAsked: true })
    .where(and(eq(refreshes.dataSetId, dataSetId), eq(refreshes.state, 'running')));
}

export async function refreshHistory(dataSetId: string, most = 12): Promise<Refresh[]> {
  const rows = await database()
    .select()
    .from(refreshes)
    .where(eq(refreshes.dataSetId, dataSetId))
    .orderBy(desc(refreshes.startedAt))
    .limit(most);
  return rows.map((row) => ({
    id: row.id,
    state: row.state,
    startedAt: row.startedAt.toISOString(),
    endedAt: row.endedAt?.toISOString() ?? null,
    fetched: row.fetched,
    kept: row.kept,
    rejected: row.rejected,
    calls: row.calls,
    problem: row.problem as Problem | null,
  }));
}

const mostRejects = 10_000;

/** Keeps lines that could not be read, to look at; of a data set the latest of them. */
export async function storeRejects(dataSetId: string, rejected: readonly RejectedRecord[]): Promise<void> {
  if (rejected.length === 0) return;
  await database()
    .insert(rejects)
    .values(
      rejected.map(({ line, text, why }) => ({
        dataSetId,
        line,
        text: text.replaceAll('\0', ' '),
        why,
      })),
    );
  await database().execute(
    sql`DELETE FROM rejects WHERE data_set_id = ${dataSetId} AND id <= (SELECT id FROM rejects WHERE data_set_id = ${dataSetId} ORDER BY id DESC OFFSET ${mostRejects} LIMIT 1)`,
  );
}

/** The latest lines that could not be read. */
export async function latestRejects(
  dataSetId: string,
  most = 50,
): Promise<{ line: number; text: string; why: string; at: string }[]> {
  const rows = await database()
    .select()
    .from(rejects)
    .where(eq(rejects.dataSetId, dataSetId))
    .orderBy(desc(rejects.id))
    .limit(most);
  return rows.map(({ line, text, why, madeAt }) => ({ line, text, why, at: madeAt.toISOString() }));
}

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

/** The kept versions of several data sets, for a list: how many records, and since when they are true. */
export async function keptOf(
  ids: readonly string[],
): Promise<Map<string, { records: number; trueAt: string }>> {
  if (ids.length === 0) return new Map();
  const rows = await database()
    .select({ id: kept.dataSetId, records: keptVersions.records, trueAt: keptVersions.trueAt })
    .from(kept)
    .innerJoin(keptVersions, eq(keptVersions.id, kept.versionId))
    .where(inArray(kept.dataSetId, [...ids]));
  return new Map(rows.map(({ id, records, trueAt }) => [id, { records, trueAt: trueAt.toISOString() }]));
}
