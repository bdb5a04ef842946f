import { expect, test } from 'vitest';
import { dotScale, powerScale, roundScale } from './scale.ts';

test.each([
  [0.743, 0.952, [0.7, 1]],
  [0, 17, [0, 20]],
  [0, 0, [0, 0.5]],
  [-4, 3, [-5, 5]],
  [5, 5, [4, 6]],
  [0, 1e12, [0, 1e12]],
])('from %s to %s is shown on round numbers that hold both', (least, greatest, [from, to]) => {
  const scale = roundScale(least, greatest);
  expect(scale.least).toBeLessThanOrEqual(least);
  expect(scale.greatest).toBeGreaterThanOrEqual(greatest);
  expect([scale.least, scale.greatest]).toEqual([from, to]);
});

test('of nothing at all is a scale too', () => {
  expect(roundScale(Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY)).toEqual({
    least: 0,
    greatest: 1,
    ticks: 1,
  });
});

test('a logarithmic scale goes from one power of ten to another, and knows nothing at or below zero', () => {
  expect(powerScale([3, 40, 7200])).toEqual({ least: 0, greatest: 4, ticks: 4 });
  expect(powerScale([1, 10, 1000])).toEqual({ least: 0, greatest: 3, ticks: 3 });
  expect(powerScale([0.002, 5])).toEqual({ least: -3, greatest: 1, ticks: 4 });
  expect(powerScale([100])).toEqual({ least: 2, greatest: 3, ticks: 1 });
  expect(powerScale([0, -5])).toEqual({ least: 0, greatest: 1, ticks: 1 });
});

test('no dot stands at an end of its scale, which begins at nothing rather than below', () => {
  expect(dotScale([1360, 3190])).toEqual({ least: 1000, greatest: 3500, ticks: 5 });
  expect(dotScale([0.1, 4]).least).toBe(0);
  expect(dotScale([-2, 4]).least).toBeLessThan(-2);
  expect(dotScale([7]).least).toBeLessThan(7);
  expect(dotScale([])).toEqual({ least: 0, greatest: 1, ticks: 1 });
});
