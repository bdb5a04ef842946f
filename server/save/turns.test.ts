import { expect, test } from 'vitest';
import { inTurn } from './turns.ts';

test('one person prepares three files at once, others go on, and what has ended makes room', async () => {
  const ends: (() => void)[] = [];
  const slow = (): Promise<void> => new Promise((resolve) => ends.push(resolve));
  const three = [1, 2, 3].map(() => inTurn('a', slow));
  await expect(inTurn('a', slow)).rejects.toThrow('3 downloads of yours');
  expect(await inTurn('b', async () => 'came')).toBe('came');
  for (const end of ends) end();
  await Promise.all(three);
  expect(await inTurn('a', async () => 'came')).toBe('came');
  await expect(inTurn('a', () => Promise.reject(new Error('failed')))).rejects.toThrow('failed');
  expect(await inTurn('a', async () => 'came')).toBe('came');
});
