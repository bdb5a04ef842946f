import { setImmediate } from 'node:timers/promises';
import { ProblemError } from '#core/value/problem/problem.ts';
import { putRecent } from '#core/value/recent.ts';
import { ColumnarDatabase } from '#engine/columnar/database.ts';
import type { KeptField } from '#engine/columnar/kept-field.ts';
import { currentVersion, currentVersionIds, type KeptVersion } from '../store/kept.ts';
import { cachedSegment, cacheFolder, isCached } from './cache.ts';

let engine: Promise<ColumnarDatabase> | null = null;

/** The columnar engine of this process. */
export function columnar(): Promise<ColumnarDatabase> {
  engine ??= ColumnarDatabase.open({ folder: cacheFolder() });
  return engine;
}

export async function closeColumnar(): Promise<void> {
  const open = await engine;
  engine = null;
  views.clear();
  versions.clear();
  latest.clear();
  open?.close();
}

/** Views by version, the latest used last. */
const views = new Map<string, Promise<void>>();
const mostViews = 200;

/** Makes files readable under a name, which always stands for the same files; done once for each. */
export async function defineView(
  name: string,
  files: readonly string[],
  fields: readonly KeptField[],
): Promise<void> {
  const known = views.get(name) ?? columnar().then((engine) => engine.define(name, files, fields));
  const unused = putRecent(views, name, known, mostViews);
  known.catch(() => views.delete(name));
  for (const [oldest] of unused) {
    versions.delete(oldest);
    await (await columnar()).forget(oldest);
  }
  await known;
}

/** What is known of versions whose views are there. */
const versions = new Map<string, KeptVersion>();

/** The id of the version of each data set that was current when it was opened last. */
const latest = new Map<string, string>();

/**
 * The versions of data sets that were opened last, where all of them can still be read at once; null where not. They may have
 * been replaced since.
 */
export function lastOpened(dataSetIds: readonly string[]): Map<string, KeptVersion> | null {
  const found = dataSetIds.flatMap((id): [string, KeptVersion][] => {
    const version = versions.get(latest.get(id) ?? '');
    return version?.segments.every(({ hash }) => isCached(hash)) ? [[id, version]] : [];
  });
  return found.length === dataSetIds.length ? new Map(found) : null;
}

/** Whoever asks in the same turn of the event loop, as the panes of a page do, is answered by one query. */
let gathering: { readonly ids: Set<string>; readonly found: Promise<Map<string, string>> } | null = null;

function currentIds(dataSetIds: readonly string[]): Promise<Map<string, string>> {
  if (!gathering) {
    const ids = new Set<string>();
    const found = setImmediate().then(() => {
      gathering = null;
      return currentVersionIds([...ids]);
    });
    gathering = { ids, found };
  }
  for (const id of dataSetIds) gathering.ids.add(id);
  return gathering.found;
}

/**
 * The current versions of data sets' kept records, ready to be read: all as they were at one moment, so that records that are
 * brought together belong together. Throws a {@link ProblemError}.
 */
export async function openKept(
  dataSetIds: readonly string[],
  doing: string,
): Promise<Map<string, KeptVersion>> {
  if (dataSetIds.length === 0) return new Map();
  const current = await currentIds(dataSetIds);
  const opened = dataSetIds.map(async (dataSetId): Promise<[string, KeptVersion]> => {
    const id = current.get(dataSetId) ?? '';
    const version = versions.get(id) ?? (await currentVersion(dataSetId));
    if (!version)
      throw new ProblemError({
        code: 'missing',
        doing,
        why: 'its records are kept, and have not been fetched yet',
        mend: 'Refresh the data set, or wait for its first refresh.',
      });
    // The files may have been cleared away since the view was made; they are fetched again.
    const files = await Promise.all(version.segments.map(({ hash }) => cachedSegment(hash)));
    await defineView(version.id, files, version.fields);
    versions.set(version.id, version);
    putRecent(latest, dataSetId, version.id, mostViews);
    return [dataSetId, version];
  });
  return new Map(await Promise.all(opened));
}
