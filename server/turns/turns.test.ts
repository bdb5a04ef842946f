import { setImmediate } from 'node:timers/promises';
import { expect, test } from 'vitest';
import { takeTurn } from './turns.ts';

async function inTurn<T>(person: string, write: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  const leave = await takeTurn('download', person, signal);
  try {
    return await write();
  } finally {
    leave();
  }
}

/** Work that ends when it is told to. */
function work(): { begun: () => boolean; end: () => void; write: () => Promise<string> } {
  let [isBegun, end] = [false, (): void => undefined];
  const ended = new Promise<void>((resolve) => {
    end = resolve;
  });
  const write = async (): Promise<string> => {
    isBegun = true;
    await ended;
    return 'came';
  };
  return { begun: () => isBegun, end, write };
}

test('one person has three files prepared, one after the other; others go on, and what has ended makes room', async () => {
  const files = [work(), work(), work()];
  const three = files.map(({ write }) => inTurn('a', write));
  await expect(inTurn('a', work().write)).rejects.toThrow('3 downloads of yours');
  expect(await inTurn('b', async () => 'came')).toBe('came');
  for (const [at, file] of files.entries()) {
    await setImmediate();
    expect(files.map(({ begun }) => begun())).toEqual(files.map((_, other) => other <= at));
    file.end();
    expect(await three[at]).toBe('came');
  }
  expect(await inTurn('a', async () => 'came')).toBe('came');
});

test('one that fails, or whose reader has left, does not keep the next from its turn', async () => {
  const first = work();
  const begun = inTurn('a', first.write);
  const left = new AbortController();
  let isWritten = false;
  const gone = inTurn(
    'a',
    async () => {
      isWritten = true;
    },
    left.signal,
  );
  const failed = inTurn('a', () => Promise.reject(new Error('failed')));
  left.abort();
  gone.catch(() => undefined);
  first.end();
  await begun;
  await expect(gone).rejects.toThrow('abort');
  await expect(failed).rejects.toThrow('failed');
  expect(isWritten).toBe(false);
  expect(await inTurn('a', async () => 'came')).toBe('came');
});

test('one that has begun lasts until it has ended, though its reader has left', async () => {
  const left = new AbortController();
  const file = work();
  const begun = inTurn('a', file.write, left.signal);
  const next = work();
  const waiting = inTurn('a', next.write);
  await setImmediate();
  left.abort();
  await setImmediate();
  expect([file.begun(), next.begun()]).toEqual([true, false]);
  file.end();
  await begun;
  await setImmediate();
  expect(next.begun()).toBe(true);
  next.end();
  expect(await waiting).toBe('came');
});
