import { randomUUID } from 'node:crypto';
import pg from 'pg';
import { nextRefresh } from '#core/dataset/kept/next.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type Relation, totals } from '#core/plan/plan.ts';
import { cellText } from '#core/value/field/value.ts';
import { type Problem, ProblemError, problemOf } from '#core/value/problem/problem.ts';
import { SegmentWriter } from '#engine/columnar/writer.ts';
import { runPlan } from '../records/run.ts';
import { settings } from '../settings.ts';
import { openSource } from '../sources/open.ts';
import { dataChanged } from '../store/data-changed.ts';
import { findDataSet, type StoredDataSet } from '../store/data-sets.ts';
import { keptState, setNext, setNextAfter } from '../store/due.ts';
import { currentVersion, swapVersion } from '../store/kept.ts';
import { noteOutcome } from '../store/outages.ts';
import { beginRefresh, endRefresh, storeRejects, tellProgress } from '../store/refreshes.ts';
import { cachedSegment, cacheFolder } from './cache.ts';
import { heldBack } from './hold.ts';
import { storeAll, writeBeside } from './write.ts';

/** Smaller segments than this are put together once there are many of them. */
const smallRecords = 100_000;
const mostSmall = 8;
const progressMs = 500;

export type Refreshed =
  | { readonly state: 'done'; readonly fetched: number; readonly kept: number }
  | { readonly state: 'failed' | 'stopped'; readonly problem: ReturnType<typeof problemOf> }
  /** Another process is at it. */
  | { readonly state: 'busy' };

export interface RefreshOptions {
  readonly signal?: AbortSignal;
  readonly now?: () => Date;
}

/**
 * Fetches a data set's records and gives readers the new version. Only one refresh of a data set runs at a time, over all
 * processes. Whatever happens, and wherever it is cut off, readers have the version before or the one after, whole.
 */
export async function refresh(
  dataSetId: string,
  { signal, now = () => new Date() }: RefreshOptions = {},
): Promise<Refreshed> {
  const lock = new pg.Client({ connectionString: settings().SLATE_DATABASE });
  // Without its lock another process may be at the same data set, so this one gives up.
  const lost = new AbortController();
  const lose = (): void => lost.abort(new ProblemError(withoutLock));
  lock.on('error', lose);
  lock.on('end', lose);
  await lock.connect();
  try {
    // The lock is the session's: it goes when this process does, however it ends.
    const { rows } = await lock.query<{ got: boolean }>(
      'SELECT pg_try_advisory_lock(hashtextextended($1, 4600)) AS got',
      [dataSetId],
    );
    if (!rows[0]?.got) return { state: 'busy' };
    const ended = AbortSignal.any([lost.signal, ...(signal ? [signal] : [])]);
    return await locked(dataSetId, ended, now);
  } finally {
    await lock.end().catch(() => undefined);
  }
}

async function locked(dataSetId: string, signal: AbortSignal, now: () => Date): Promise<Refreshed> {
  const found = await findDataSet(dataSetId);
  if (!found?.definition.keep) return neverDue(dataSetId, 'its records are not kept', 'Keep them first.');
  if (found.definition.request.kind === 'upload')
    return neverDue(dataSetId, 'its records come from files', 'Upload a later file.');
  const { schedule } = found.definition.keep;
  const id = randomUUID();
  await beginRefresh(id, dataSetId);
  const progress = { fetched: 0, calls: 0 };
  try {
    const { kept, rejected, more } = await fetchAndSwap(found, id, progress, signal, now);
    await endRefresh(id, { state: 'done', ...progress, kept, rejected });
    await noteOutcome(found.definition.source, null);
    await setNextAfter(id, dataSetId, more ? now() : nextRefresh(schedule, now(), 0), 0);
    return { state: 'done', fetched: progress.fetched, kept };
  } catch (thrown) {
    const problem = problemOf(thrown, `refreshing “${found.name}”`);
    const state = problem.code === 'stopped' ? 'stopped' : 'failed';
    await endRefresh(id, { state, ...progress, problem });
    if (state === 'failed') await noteWhetherAnswered(found, thrown);
    const failures = state === 'stopped' ? 0 : ((await keptState(dataSetId))?.failures ?? 0) + 1;
    await setNextAfter(id, dataSetId, nextRefresh(schedule, now(), failures), failures);
    return { state, problem };
  }
}

/** Whether a source that a refresh failed of did not answer; that this process lost its own database says nothing of it. */
async function noteWhetherAnswered({ id, definition }: StoredDataSet, thrown: unknown): Promise<void> {
  if (!(thrown instanceof ProblemError) || thrown.problem === withoutLock) return;
  if (await noteOutcome(definition.source, thrown.problem)) await dataChanged([id]);
}

/** The input by which a service is told where to go on from; blank the first time, when it gives everything. */
function toldBy({ inputs }: DataSet, name: string, since: string | null): Relation['inputs'] {
  const type = inputs.find((input) => input.name === name)?.type ?? 'text';
  return { [name]: { type, value: since } };
}

/** There is nothing to fetch for this data set, now or later. */
async function neverDue(dataSetId: string, why: string, mend: string): Promise<Refreshed> {
  await setNext(dataSetId, null);
  return { state: 'failed', problem: { code: 'missing', doing: 'refreshing', why, mend } };
}

const stopped = (signal?: AbortSignal): ProblemError =>
  signal?.reason instanceof ProblemError
    ? signal.reason
    : new ProblemError({
        code: 'stopped',
        doing: 'refreshing',
        why: 'somebody stopped it',
        mend: 'Nothing was changed. Refresh again when it suits.',
      });

const withoutLock: Problem = {
  code: 'unreachable',
  doing: 'refreshing',
  why: 'Slate Glass lost touch with its own database while it ran',
  mend: 'Nothing was changed. The next refresh begins again.',
};

interface Swapped {
  readonly kept: number;
  readonly rejected: number;
  readonly more: boolean;
}

async function fetchAndSwap(
  { id: dataSetId, name, definition }: StoredDataSet,
  refreshId: string,
  progress: { fetched: number; calls: number },
  signal: AbortSignal,
  now: () => Date,
): Promise<Swapped> {
  const { keep, key, request } = definition;
  if (!keep) throw new Error('not kept');
  const { mode } = keep;
  const doing = `refreshing “${name}”`;
  const before = await currentVersion(dataSetId);
  const fields = startOf(definition).map((field) => ({ name: field.name, type: field.type }));
  // Records of other fields cannot stand beside the ones there are: then all are fetched.
  const same =
    before !== null &&
    before.fields.length === fields.length &&
    fields.every(
      ({ name: of, type }, at) => before.fields[at]?.name === of && before.fields[at]?.type === type,
    );
  const goesOn = same && mode.kind !== 'replace' ? before : null;
  // What is followed says itself where it ended; other sources are asked for what came after the greatest value.
  const since = goesOn && 'since' in mode ? await greatest(definition, dataSetId, mode.since) : null;
  const replaces = mode.kind === 'changed' || (mode.kind === 'follow' && request.kind === 'intake');
  const folder = cacheFolder();
  const writer = await SegmentWriter.open(
    folder,
    fields.map(({ name: of }) => of),
  );
  try {
    const trueAt = now();
    let lastReport = 0;
    const kind = await openSource(definition.source, () => {
      progress.calls += 1;
    });
    const fetched = await kind.fetch(writer, {
      request,
      inputs: mode.kind === 'changed' && mode.tell !== undefined ? toldBy(definition, mode.tell, since) : {},
      fields,
      since:
        since !== null && 'since' in mode
          ? { field: mode.since, value: since, inclusive: mode.kind === 'changed' }
          : undefined,
      position: goesOn?.position ?? null,
      doing,
      signal,
      progress: async (records) => {
        progress.fetched += records;
        if (signal.aborted) throw stopped(signal);
        if (performance.now() - lastReport < progressMs) return;
        lastReport = performance.now();
        if (await tellProgress(refreshId, progress.fetched)) throw stopped();
      },
    });
    const written = await writeBeside(writer, fields, {
      before: goesOn,
      doing,
      key: replaces ? key : undefined,
      forget: keep.forget && { field: keep.forget.field, before: daysBefore(trueAt, keep.forget.days) },
    });
    const fresh = written.fresh.reduce((sum, { records }) => sum + records, 0);
    const isAll = !keep.forget && !(replaces && key);
    const rejected = await fetched.rejected?.(isAll ? fresh : null);
    const segments = await tidied([...written.older, ...written.fresh], writer, folder);
    if (await tellProgress(refreshId, progress.fetched)) throw stopped();
    const { fields: scaled, spans } = written;
    const version = randomUUID();
    await heldBack({ id: dataSetId, name, definition }, { version, segments, fields: scaled, spans, trueAt });
    if (signal.aborted) throw stopped(signal);
    await swapVersion({
      id: version,
      before: before?.id ?? null,
      dataSetId,
      trueAt,
      fields: scaled,
      spans,
      position: fetched.position,
      segments,
    });
    await storeRejects(dataSetId, rejected?.examples ?? []);
    return {
      kept: segments.reduce((sum, { records }) => sum + records, 0),
      rejected: rejected?.count ?? 0,
      more: fetched.more ?? false,
    };
  } finally {
    writer.close();
  }
}

const daysBefore = (at: Date, days: number): string =>
  new Date(at.getTime() - days * 86_400_000).toISOString();

/** Many small segments become one, so that reading stays quick however often a little is added. */
async function tidied(
  segments: readonly { hash: string; records: number }[],
  writer: SegmentWriter,
  folder: string,
): Promise<{ hash: string; records: number }[]> {
  const firstSmall = segments.findLastIndex(({ records }) => records >= smallRecords) + 1;
  const small = segments.slice(firstSmall);
  if (small.length <= mostSmall) return [...segments];
  const files = await Promise.all(small.map(({ hash }) => cachedSegment(hash)));
  const merged = await writer.merged(files, folder);
  await storeAll([merged]);
  return [...segments.slice(0, firstSmall), merged];
}

/** The greatest value of a field so far, as text; null when nothing is kept. */
async function greatest(definition: DataSet, dataSetId: string, field: string): Promise<string | null> {
  const from = {
    source: definition.source,
    request: { kind: 'kept' as const, name: dataSetId },
    inputs: {},
    fields: startOf(definition),
  };
  const { records } = await runPlan(
    totals(from, 'UTC', [{ name: 'greatest', calculation: { kind: 'greatest', field } }]),
    { doing: 'finding where the last refresh ended' },
  );
  return cellText(records[0]?.[0] ?? null);
}
