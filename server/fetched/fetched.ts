import { createHash } from 'node:crypto';
import { eq, lt, sql } from 'drizzle-orm';
import pg from 'pg';
import type { Filter } from '#core/ask/condition/resolve.ts';
import { fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Spans } from '#core/dataset/kept/spans.ts';
import type { Relation } from '#core/plan/plan.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { KeptField } from '#engine/columnar/kept-field.ts';
import type { WrittenSegment } from '#engine/columnar/segment.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { TooManyRecords } from '#sources/kind.ts';
import { cachedSegment, cacheFolder } from '../kept/cache.ts';
import { defineView } from '../kept/open.ts';
import { writeBeside } from '../kept/write.ts';
import { settings } from '../settings.ts';
import { openSource } from '../sources/open.ts';
import { database } from '../store/database.ts';
import { noteOutcome } from '../store/outages.ts';
import { wasChangedSince } from '../store/sources.ts';
import { fetched, sources } from '../store/tables/sources.ts';

/* Records of sources that plans do not run on: fetched when somebody asks, shared by all who ask, and kept for a while. */

/** Seconds that fetched records are taken for fresh, unless the analyst says otherwise. */
export const usualFreshSeconds = 300;
/** No more records than this are fetched while somebody waits. */
export const mostWhileWaiting = 100_000;
/** What could not be fetched again is shown as it was for this long. */
const longestStaleMs = 86_400_000;

export interface FetchedRecords {
  /** The name that the columnar engine has them under. */
  readonly view: string;
  readonly fields: readonly KeptField[];
  readonly spans: Spans;
  /** ISO 8601. */
  readonly trueAt: string;
}

interface Stored {
  /** When it was begun to be fetched. */
  readonly trueAt: Date;
  /** Records of the source were changed from here since. */
  readonly isPast: boolean;
  readonly fields: readonly KeptField[];
  readonly spans: Spans;
  readonly segments: readonly { hash: string; records: number }[];
}

const digest = (about: unknown): string => createHash('sha256').update(JSON.stringify(about)).digest('hex');

/** Fetches under way in this process, by key: those who ask at once wait for one. */
const underWay = new Map<string, Promise<Stored>>();

export interface FetchRequest {
  readonly from: Relation;
  /** Fields that the plan needs. */
  readonly needed: readonly string[];
  readonly where: Filter;
  readonly freshSeconds?: number | undefined;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
}

/**
 * The records of a relation, ready to be read. The whole relation is fetched when it fits, so that every pane shares it;
 * one that does not is fetched for the plan alone: only its fields, and only the records that the source can be told to
 * leave it with. Throws a {@link ProblemError} that names the number when there are more even so.
 */
export async function openFetched(query: FetchRequest): Promise<FetchedRecords> {
  const { from } = query;
  try {
    return await opened(from, undefined, query);
  } catch (thrown) {
    const isLarge = thrown instanceof TooManyRecords;
    const isNarrower = query.needed.length < from.fields.length || fieldsOf(query.where).length > 0;
    if (!isLarge || !isNarrower) throw thrown;
    const named = from.fields.filter(({ name }) => query.needed.includes(name));
    // What only counts needs no field, and records have to hold one.
    const needed = named.length > 0 ? named : from.fields.slice(0, 1);
    return opened({ ...from, fields: needed }, query.where, query);
  }
}

/** Relations that were found to be too large to fetch whole, so that it is not tried for every pane; forgotten in time (`performance.now()`). */
const tooLarge = new Map<string, number>();
const rememberLargeMs = 600_000;

/** Milliseconds since a moment; what lies ahead of now was noted by a clock that has been put back since, and is as old as can be. */
function ageOf(moment: Date): number {
  const age = Date.now() - moment.getTime();
  return age < 0 ? Number.POSITIVE_INFINITY : age;
}

async function opened(
  from: Relation,
  where: Filter | undefined,
  request: FetchRequest,
): Promise<FetchedRecords> {
  const { doing, freshSeconds = usualFreshSeconds, signal } = request;
  const fields = from.fields.map(({ name, type }) => ({ name, type }));
  const key = digest([from.source, from.request, from.inputs, fields, where ?? null]);
  const start = new Date();
  const large = tooLarge.get(key) ?? 0;
  if (large > performance.now()) throw new TooManyRecords(doing, mostWhileWaiting);
  const known = await stored(key);
  const isFresh = (record: Stored): boolean => !record.isPast && ageOf(record.trueAt) < freshSeconds * 1000;
  if (known && isFresh(known)) return viewOf(key, known);
  const running = underWay.get(key) ?? alone(key, isFresh, () => fetchAgain(key, from, where, doing));
  underWay.set(key, running);
  running.then(
    () => underWay.delete(key),
    () => underWay.delete(key),
  );
  try {
    const record = await untilAborted(running, signal);
    // It was begun before a change that whoever asks may know of, which may have been made after it was looked whether there was one.
    const isPast =
      record.trueAt <= start && (record.isPast || (await wasChangedSince(from.source, record.trueAt)));
    return isPast ? await opened(from, where, request) : await viewOf(key, record);
  } catch (thrown) {
    if (thrown instanceof ProblemError) await noteOutcome(from.source, thrown.problem);
    if (thrown instanceof TooManyRecords) tooLarge.set(key, performance.now() + rememberLargeMs);
    // What was true a while ago, and says so, is better than nothing.
    else if (known && !signal?.aborted && Date.now() - known.trueAt.getTime() < longestStaleMs)
      return viewOf(key, known);
    throw thrown;
  }
}

/** One process fetches at a time; the others find what it fetched. */
async function alone(
  key: string,
  isFresh: (record: Stored) => boolean,
  fetchIt: () => Promise<Stored>,
): Promise<Stored> {
  const lock = new pg.Client({ connectionString: settings().SLATE_DATABASE });
  lock.on('error', () => undefined);
  await lock.connect();
  try {
    await lock.query('SELECT pg_advisory_lock(hashtextextended($1, 4602))', [key]);
    const known = await stored(key);
    return known && isFresh(known) ? known : await fetchIt();
  } finally {
    await lock.end().catch(() => undefined);
  }
}

async function fetchAgain(
  key: string,
  from: Relation,
  where: Filter | undefined,
  doing: string,
): Promise<Stored> {
  const { request } = from;
  if (request.kind === 'kept') throw new TypeError('kept records are not fetched');
  const fields = from.fields.map(({ name, type }) => ({ name, type }));
  const writer = await SegmentWriter.open(
    cacheFolder(),
    fields.map(({ name }) => name),
  );
  try {
    const trueAt = new Date();
    const kind = await openSource(from.source);
    const { calls = 0 } = await kind.fetch(writer, {
      request,
      inputs: from.inputs,
      fields,
      where,
      position: null,
      doing,
      most: mostWhileWaiting,
      progress: async () => undefined,
    });
    const written = await writeBeside(writer, fields, { before: null, doing });
    const segments = written.fresh.map(({ hash, records }) => ({ hash, records }));
    const record = { trueAt, fields: written.fields, spans: written.spans, segments };
    await database()
      .insert(fetched)
      .values({ key, sourceId: from.source, calls, ...record })
      .onConflictDoUpdate({ target: fetched.key, set: { calls, ...record } });
    await noteOutcome(from.source, null);
    return { ...record, isPast: await wasChangedSince(from.source, trueAt) };
  } finally {
    writer.close();
  }
}

async function stored(key: string): Promise<Stored | null> {
  const [found] = await database()
    .select({ row: fetched, changedAt: sources.changedAt })
    .from(fetched)
    .innerJoin(sources, eq(sources.id, fetched.sourceId))
    .where(eq(fetched.key, key))
    .limit(1);
  const row = found?.row;
  return row
    ? {
        trueAt: row.trueAt,
        isPast: found.changedAt !== null && found.changedAt >= row.trueAt,
        fields: row.fields as KeptField[],
        spans: row.spans as Spans,
        segments: row.segments as WrittenSegment[],
      }
    : null;
}

async function viewOf(key: string, { trueAt, fields, spans, segments }: Stored): Promise<FetchedRecords> {
  const view = `${key.slice(0, 40)} ${trueAt.getTime()}`;
  const files = await Promise.all(segments.map(({ hash }) => cachedSegment(hash)));
  await defineView(view, files, fields);
  return { view, fields, spans, trueAt: trueAt.toISOString() };
}

/** Waits for something others wait for too; leaving does not stop it, so that what was spent on it is not lost. */
function untilAborted<T>(promise: Promise<T>, signal: AbortSignal | undefined): Promise<T> {
  if (!signal) return promise;
  return new Promise((resolve, reject) => {
    const left = (): void => reject(signal.reason as Error);
    signal.addEventListener('abort', left, { once: true });
    promise.then(resolve, reject).finally(() => signal.removeEventListener('abort', left));
  });
}

/** Lets go of what was fetched more than a day ago. */
export async function forgetFetched(): Promise<void> {
  await database().delete(fetched).where(lt(fetched.trueAt, sql`now() - interval '1 day'`));
}
