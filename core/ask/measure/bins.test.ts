import fc from 'fast-check';
import { expect, test } from 'vitest';
import { binsOf } from './bins.ts';

test('bins hold every number from the least to the greatest exactly once', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: -9_000_000, max: 9_000_000 }),
      fc.integer({ min: 1, max: 9_000_000 }),
      (from, by) => {
        const bins = binsOf(String(from), String(from + by));
        expect(bins.length).toBeGreaterThan(0);
        expect(bins.length).toBeLessThanOrEqual(25);
        for (const value of [from, from + by, from + by / 2, from + 0.1 * by]) {
          const within = bins.filter(
            (bin) => value >= Number(bin.from) && (bin.below === null || value < Number(bin.below)),
          );
          expect(within).toHaveLength(1);
        }
        for (const [index, bin] of bins.entries())
          if (index > 0) expect(bin.from).toBe(bins[index - 1]?.below);
      },
    ),
    { numRuns: 2000 },
  );
});

test('bounds are round', () => {
  expect(binsOf('0', '47').slice(0, 3)).toEqual([
    { from: '0', below: '2' },
    { from: '2', below: '4' },
    { from: '4', below: '6' },
  ]);
  expect(binsOf('0.1', '1.3')[1]).toEqual({ from: '0.15', below: '0.20' });
});

test('one value, none, or what is no sensible range has no bins', () => {
  expect(binsOf('5', '5')).toEqual([]);
  expect(binsOf(null, null)).toEqual([]);
  expect(binsOf('0', '99999999999999999999')).toEqual([]);
  expect(binsOf('NaN', '1')).toEqual([]);
  expect(binsOf('0', '0.00000000000001')).toEqual([]);
});

test('of whole numbers the bounds are whole, however near the ends are', () => {
  expect(binsOf('1', '7', true).map(({ from, below }) => [from, below])).toEqual([
    ['1', '2'],
    ['2', '3'],
    ['3', '4'],
    ['4', '5'],
    ['5', '6'],
    ['6', null],
  ]);
});
