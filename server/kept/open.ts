import { ProblemError } from '#core/problem/problem.ts';
import { ColumnarDatabase } from '#engine/columnar/database.ts';
import { currentVersion, type KeptVersion } from '../store/kept.ts';
import { cachedSegment, cacheFolder } from './cache.ts';

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
  open?.close();
}

/** Views by version, the latest used last. */
const views = new Map<string, Promise<void>>();
const mostViews = 200;

/** Makes a version's segments readable under its id. Versions never change, so this is done once for each. */
async function makeView(version: KeptVersion, files: readonly string[]): Promise<void> {
  await (await columnar()).define(version.id, files, version.fields);
}

/** The current version of a data set's kept records, ready to be read. Throws a {@link ProblemError}. */
export async function openKept(dataSetId: string, doing: string): Promise<KeptVersion> {
  const version = await currentVersion(dataSetId);
  if (!version)
    throw new ProblemError({
      code: 'missing',
      doing,
      why: 'its records are kept, and have not been fetched yet',
      mend: 'Refresh the data set, or wait for its first refresh.',
    });
  // The files may have been cleared away since the view was made; they are fetched again.
  const files = await Promise.all(version.segments.map(({ hash }) => cachedSegment(hash)));
  const known = views.get(version.id) ?? makeView(version, files);
  views.delete(version.id);
  views.set(version.id, known);
  known.catch(() => views.delete(version.id));
  await known;
  for (const oldest of views.keys()) {
    if (views.size <= mostViews) break;
    views.delete(oldest);
    await (await columnar()).forget(oldest);
  }
  return version;
}
