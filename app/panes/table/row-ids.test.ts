import { expect, test } from 'vitest';
import { rowIdsOf } from './row-ids.ts';

test('a row keeps its name when its record stands elsewhere', () => {
  expect(
    rowIdsOf(
      [
        ['7', 'a'],
        ['9', 'b'],
      ],
      0,
    ),
  ).toEqual(['7', '9']);
  expect(
    rowIdsOf(
      [
        ['9', 'b'],
        ['7', 'a'],
      ],
      0,
    ),
  ).toEqual(['9', '7']);
});

test('records that nothing tells apart are told apart by their place', () => {
  const ids = rowIdsOf([['7'], ['7'], [null], [null]], 0);
  expect(new Set(ids).size).toBe(4);
  expect(rowIdsOf([['a'], ['b']], -1)).toEqual(['null at 0', 'null at 1']);
});
