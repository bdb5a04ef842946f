import { forgetAnswers } from '#server/records/answers.ts';

export const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

/** Milliseconds that some work takes. */
export async function timed(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return performance.now() - start;
}

/**
 * Medians of several ways of doing a thing, turn by turn, so that all meet the same machine. What takes long is done fewer
 * times: noise is a smaller part of it. Every turn is worked out again; none is answered with what the one before found.
 */
export async function compared(runs: number, ...ways: (() => Promise<unknown>)[]): Promise<number[]> {
  const afresh = (way: () => Promise<unknown>): Promise<number> => {
    forgetAnswers();
    return timed(way);
  };
  const times: number[][] = ways.map(() => []);
  let longest = 0;
  for (const way of ways) longest = Math.max(longest, await afresh(way));
  const enough = longest > 200 ? Math.min(runs, 15) : runs;
  for (let n = 0; n < enough; n += 1)
    for (const [at, way] of ways.entries()) times[at]?.push(await afresh(way));
  return times.map(median);
}
