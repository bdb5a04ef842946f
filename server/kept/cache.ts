import { createHash, randomUUID } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, readdirSync, rmSync, statSync } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { ProblemError, problemOf } from '#core/value/problem/problem.ts';
import { settings } from '../settings.ts';
import { segmentContent } from '../store/kept.ts';

/* Segments as local files, named after their content: fetched once, shared by all readers, deleted and fetched again at will. */

const isPrivate = new Set<string>();

/** The folder of the cache, made when it is not there. */
export function cacheFolder(): string {
  const folder = path.resolve(settings().SLATE_CACHE);
  // Records are nobody else's business on this machine.
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  if (!isPrivate.has(folder)) {
    chmodSync(folder, 0o700);
    isPrivate.add(folder);
  }
  return folder;
}

export const segmentFile = (hash: string): string =>
  path.join(path.resolve(settings().SLATE_CACHE), `${hash}.parquet`);

/** Whether a segment can be read without fetching it. */
export const isCached = (hash: string): boolean => existsSync(segmentFile(hash));

const fetching = new Map<string, Promise<string>>();

/** The local file of a segment; fetched when it is not there. Those who ask at once share one fetch. */
export function cachedSegment(hash: string): Promise<string> {
  const file = segmentFile(hash);
  const known = fetching.get(hash);
  if (known) return known;
  if (isCached(hash)) return Promise.resolve(file);
  const fetched = fetchSegment(hash, file).finally(() => fetching.delete(hash));
  fetching.set(hash, fetched);
  return fetched;
}

async function fetchSegment(hash: string, file: string): Promise<string> {
  const failed = (why: string, mend: string): ProblemError =>
    new ProblemError({ code: 'internal', doing: 'fetching kept records', why, mend });
  const content = await segmentContent(hash);
  if (!content) throw failed('a part of them is missing', 'Refresh the data set.');
  if (createHash('sha256').update(content).digest('hex') !== hash)
    throw failed('a part of them is damaged', 'Refresh the data set.');
  // A file appears under its name only when it is whole: what is cut off leaves nothing that could be read.
  const part = path.join(cacheFolder(), `fetching-${process.pid}-${randomUUID()}`);
  try {
    await writeFile(part, content);
    await rename(part, file);
  } catch (thrown) {
    rmSync(part, { force: true });
    throw new ProblemError(problemOf(thrown, 'fetching kept records'));
  }
  return file;
}

/** Whether the process that began a file or folder, which has its number in its name, is gone. */
function hasEnded(name: string): boolean {
  const [, pid] = /^(?:fetching|writing)-(\d+)-/.exec(name) ?? [];
  if (pid === undefined) return false;
  try {
    process.kill(Number(pid), 0);
    return false;
  } catch (thrown) {
    return (thrown as NodeJS.ErrnoException).code === 'ESRCH';
  }
}

/**
 * Clears what was left over by a process that was cut off, and files fetched over a week ago; those that are still asked
 * for come back.
 */
export function tidyCache(now = Date.now()): void {
  const folder = cacheFolder();
  for (const name of readdirSync(folder)) {
    const file = path.join(folder, name);
    const age = now - (statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? now);
    const isLeft = /^(fetching|writing)-/.test(name) && (age > 6 * 3_600_000 || hasEnded(name));
    if (isLeft || (name.endsWith('.parquet') && age > 7 * 86_400_000))
      rmSync(file, { recursive: true, force: true });
  }
}
