import { expect, test } from 'vitest';
import { putRecent } from './recent.ts';

test('what was used longest ago makes room, and what is used again stays', () => {
  const map = new Map<string, number>();
  expect(putRecent(map, 'a', 1, 2)).toEqual([]);
  expect(putRecent(map, 'b', 2, 2)).toEqual([]);
  expect(putRecent(map, 'a', 1, 2)).toEqual([]);
  expect(putRecent(map, 'c', 3, 2)).toEqual([['b', 2]]);
  expect([...map.keys()]).toEqual(['a', 'c']);
});
