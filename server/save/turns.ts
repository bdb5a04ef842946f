import { ProblemError } from '#core/problem/problem.ts';

/** How many files may be written at once: for one person, and for all. */
const mostOfOne = 3;
const mostOfAll = 12;

const writing = new Map<string, number>();

const busy = (why: string): ProblemError =>
  new ProblemError({
    code: 'too-much',
    doing: 'downloading',
    why,
    mend: 'Wait until one of them has come, then try again.',
  });

/** Writes a file for a person, within what one person and all may take of sources and disk. Throws a {@link ProblemError}. */
export async function inTurn<T>(person: string, write: () => Promise<T>): Promise<T> {
  const own = writing.get(person) ?? 0;
  const all = [...writing.values()].reduce((sum, each) => sum + each, 0);
  if (own >= mostOfOne) throw busy(`${own} downloads of yours are being prepared already`);
  if (all >= mostOfAll) throw busy('very many downloads are being prepared already');
  writing.set(person, own + 1);
  try {
    return await write();
  } finally {
    const left = (writing.get(person) ?? 1) - 1;
    if (left > 0) writing.set(person, left);
    else writing.delete(person);
  }
}
