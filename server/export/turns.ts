import { ProblemError } from '#core/value/problem/problem.ts';

/** How many files may be asked for at once: by one person, and by all. One person's are written one after the other. */
const mostOfOne = 3;
const mostOfAll = 12;

/** How many files each person waits for, and the one that is written last. */
const waiting = new Map<string, { count: number; last: Promise<unknown> }>();

const busy = (why: string): ProblemError =>
  new ProblemError({
    code: 'too-much',
    doing: 'downloading',
    why,
    mend: 'Wait until one of them has come, then try again.',
  });

/**
 * Writes a file for a person once those that they asked for before are written, so that one person takes one share of sources,
 * memory and time, whatever they ask for. Throws a {@link ProblemError} where that are too many.
 */
export async function inTurn<T>(person: string, write: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  const own = waiting.get(person) ?? { count: 0, last: Promise.resolve() };
  const all = [...waiting.values()].reduce((sum, { count }) => sum + count, 0);
  if (own.count >= mostOfOne) throw busy(`${own.count} downloads of yours are being prepared already`);
  if (all >= mostOfAll) throw busy('very many downloads are being prepared already');
  const mine = own.last.then(() => {
    // Whoever has left meanwhile wants no file.
    signal?.throwIfAborted();
    return write();
  });
  waiting.set(person, { count: own.count + 1, last: mine.catch(() => undefined) });
  try {
    return await mine;
  } finally {
    const now = waiting.get(person);
    if (now && now.count > 1) waiting.set(person, { ...now, count: now.count - 1 });
    else waiting.delete(person);
  }
}
