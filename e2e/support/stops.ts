import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { installation, running } from './installation.ts';
import { expect } from './people.ts';

/* The installation while somebody does it harm. */

export const home = (): string => installation().url;

/** How long another person waits for the dashboard while something goes on. */
async function otherWaits(page: Page): Promise<number> {
  const started = Date.now();
  const answer = await page.context().request.get(`${home()}/desk/skerry-sound/morning-brief`);
  expect(answer.status()).toBe(200);
  return Date.now() - started;
}

/** One wait says nothing; the middle of this many does. */
const leastWaits = 7;
const middleOf = (waits: readonly number[]): number =>
  [...waits].sort((a, b) => a - b)[Math.floor(waits.length / 2)] ?? 0;

/** Megabytes that each of the processes takes now that serve pages and ask for records, by its id. */
const memory = (): ReadonlyMap<number, number> =>
  new Map(
    [...running('web.mjs'), ...running('records.mjs')].map((id) => [
      id,
      Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${id}/status`, 'utf8'))?.[1]) / 1024,
    ]),
  );

/** How much more any of them takes than it did; one that was started meanwhile, than the least that one did. */
const growth = (before: ReadonlyMap<number, number>): number =>
  Math.max(...[...memory()].map(([id, now]) => now - (before.get(id) ?? Math.min(...before.values()))));

/**
 * Does something while somebody else goes on reading, who waits for less than a second, or on a machine that has other things to
 * do less than ten times what they wait without it; none of the processes that serve them ever takes more than 300 MB for it.
 */
export async function whileOthersRead<T>(reader: Page, hostile: () => Promise<T>): Promise<T> {
  // What the first page of a run has to find out is no wait for anybody else.
  await otherWaits(reader);
  const aloneWaits: number[] = [];
  // As often as they read meanwhile at least, so that what reading itself takes of memory is taken before.
  while (aloneWaits.length < leastWaits) aloneWaits.push(await otherWaits(reader));
  const alone = middleOf(aloneWaits);
  let isOver = false;
  const doing = hostile().finally(() => {
    isOver = true;
  });
  const waits: number[] = [];
  const before = memory();
  let most = 0;
  while (!isOver || waits.length < leastWaits) {
    waits.push(await otherWaits(reader));
    most = Math.max(most, growth(before));
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  // One hiccup of the machine is nobody's fault; what was found held everybody up for tens of seconds.
  expect(middleOf(waits)).toBeLessThan(Math.max(1000, 10 * alone));
  expect(Math.max(...waits)).toBeLessThan(Math.max(5000, 20 * alone));
  expect(most).toBeLessThan(300);
  return doing;
}
