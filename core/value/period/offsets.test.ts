import { expect, test } from 'vitest';
import { offsetsOf } from './offsets.ts';

test('a change of clocks is found to the second', () => {
  const year = { least: '2026-01-01T00:00:00Z', greatest: '2026-12-31T00:00:00Z' };
  expect(offsetsOf('Europe/London', year)).toEqual([
    { from: '2025-10-26T01:00:00.000Z', seconds: 0 },
    { from: '2026-03-29T01:00:00.000Z', seconds: 3600 },
    { from: '2026-10-25T01:00:00.000Z', seconds: 0 },
  ]);
});

test('zones that are half or three quarters of an hour off are so', () => {
  const day = { least: '2026-07-01T00:00:00Z', greatest: '2026-07-01T00:00:00Z' };
  expect(offsetsOf('Asia/Kolkata', day).map(({ seconds }) => seconds)).toEqual([19_800]);
  expect(offsetsOf('Pacific/Chatham', day).map(({ seconds }) => seconds)).toEqual([45_900]);
  expect(offsetsOf('America/St_Johns', day).map(({ seconds }) => seconds)).toEqual([-9000]);
});

test('the change that takes place at the last instant counts, the one after it does not', () => {
  const until = (greatest: string): number =>
    offsetsOf('Europe/London', { least: '2026-02-01T00:00:00Z', greatest }).length;
  expect(until('2026-03-29T00:59:59.999Z')).toBe(1);
  expect(until('2026-03-29T01:00:00Z')).toBe(2);
});

test('UTC never changes', () => {
  expect(offsetsOf('UTC')).toEqual([{ from: null, seconds: 0 }]);
});
