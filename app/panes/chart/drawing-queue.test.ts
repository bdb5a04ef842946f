import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { drawInTurn } from './drawing-queue.ts';

let frames: (() => void)[] = [];

/** Lets the frames go by, as many as are asked for meanwhile. */
const nextFrame = (): void => {
  const due = frames;
  frames = [];
  for (const run of due) run();
};

beforeEach(() => {
  vi.stubGlobal('requestAnimationFrame', (run: () => void) => frames.push(run));
  vi.stubGlobal('window', { innerHeight: 800 });
});

afterEach(() => {
  while (frames.length > 0) nextFrame();
  vi.unstubAllGlobals();
});

/** A place in a page, so far from its top in pixels. */
const placeAt = (top: number): { isConnected: boolean } & HTMLElement =>
  ({ isConnected: true, getBoundingClientRect: () => ({ top, bottom: top + 200 }) }) as HTMLElement;

test('one is drawn in each frame, those in sight first', () => {
  const drawn: string[] = [];
  drawInTurn(placeAt(2000), () => drawn.push('below'));
  drawInTurn(placeAt(100), () => drawn.push('in sight'));
  nextFrame();
  expect(drawn).toEqual(['in sight']);
  nextFrame();
  expect(drawn).toEqual(['in sight', 'below']);
});

test('what was quick the last time shares a frame, as far as there is time; what is not known to be does not', () => {
  let now = 0;
  vi.stubGlobal('performance', { now: () => now });
  const drawn: string[] = [];
  const places = { quick: placeAt(0), slow: placeAt(0), also: placeAt(0) };
  const cost = { quick: 10, slow: 45, also: 30 };
  const ask = (name: keyof typeof places): void => {
    drawInTurn(places[name], () => {
      now += cost[name];
      drawn.push(name);
    });
  };
  const framesFor = (...names: (keyof typeof places)[]): string[][] => {
    const found: string[][] = [];
    for (const name of names) ask(name);
    while (frames.length > 0) {
      nextFrame();
      const inOne = drawn.splice(0);
      if (inOne.length > 0) found.push(inOne);
    }
    return found;
  };
  expect(framesFor('quick', 'slow', 'also')).toEqual([['quick'], ['slow'], ['also']]);
  expect(framesFor('quick', 'also', 'slow')).toEqual([['quick', 'also'], ['slow']]);
  expect(framesFor('slow', 'quick')).toEqual([['slow'], ['quick']]);
});

test('nothing is drawn in a place that has left the page, nor where the turn was given up; those after it are drawn', () => {
  const drawn: string[] = [];
  const left = { ...placeAt(0) };
  drawInTurn(left, () => drawn.push('left'));
  const giveUp = drawInTurn(placeAt(0), () => drawn.push('given up'));
  drawInTurn(placeAt(0), () => drawn.push('stays'));
  left.isConnected = false;
  giveUp();
  nextFrame();
  nextFrame();
  expect(drawn).toEqual(['stays']);
});
