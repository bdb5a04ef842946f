import { and, asc, eq, inArray, lte, not, notExists, sql } from 'drizzle-orm';
import type { Spans } from '#core/dataset/kept/spans.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { KeptField } from '#engine/columnar/kept-field.ts';
import type { WrittenSegment } from '#engine/columnar/segment.ts';
import { dataChanged } from './data-changed.ts';
import { database, inTransaction } from './database.ts';
import { kept, keptVersions, segments, versionSegments } from './tables/data-sets.ts';
import { fetched } from './tables/sources.ts';

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
        why: 'somebody else has stored newer ones meanwhile',
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
