import Big from 'big.js';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatBin } from '../format/bin.ts';
import { binNumbers, binsFor, boundsOf } from './bins.ts';
import { BinWidth } from './schema.ts';

const narrowestWidth = `0.${'0'.repeat(29)}1`;
const facts = (least: string, low: string, high: string, greatest: string) => ({
  least,
  low,
  high,
  greatest,
});

test('numbers of a usual spread are in some twenty ranges of a round width', () => {
  expect(binsFor(facts('-12', '-5', '58', '61'), 'integer')).toEqual({ width: '5', first: -3, last: 12 });
  expect(binsFor(facts('0.02', '0.03', '0.91', '0.99'), 'decimal')).toEqual({
    width: '0.05',
    first: 0,
    last: 19,
  });
});

test('a few numbers far away do not make the others one column: they are in the outermost ranges, which are open', () => {
  const bins = binsFor(facts('-4000', '0', '38', '900000'), 'integer');
  expect(bins).toEqual({ width: '2', first: 0, last: 19, below: true, above: true });
  if (!bins) return;
  expect(formatBin('0', bins, { type: 'integer' }, 'UTC')).toBe('under 2');
  expect(formatBin('19', bins, { type: 'integer' }, 'UTC')).toBe('38 or more');
});

test('a range says what it holds: of whole numbers its last, of others where the next begins', () => {
  const bins = { width: '5', first: -1, last: 3 };
  expect(formatBin('-1', bins, { type: 'integer' }, 'UTC')).toBe('−5 to −1');
  expect(formatBin('1', bins, { type: 'decimal' }, 'UTC')).toBe('5 to under 10');
  expect(formatBin('3', { ...bins, width: '1' }, { type: 'integer' }, 'UTC')).toBe('3');
});

test('one value, numbers that are enormous, and no numbers', () => {
  expect(binsFor(facts('7', '7', '7', '7'), 'integer')).toEqual({ width: '1', first: 7, last: 7 });
  expect(binsFor({ least: null, low: null, high: null, greatest: null }, 'integer')).toBeNull();
  expect(binsFor(facts('NaN', 'NaN', 'NaN', 'NaN'), 'float')).toBeNull();
  const bins = binsFor(facts('1e30', '1e30', '1e30', '1e30'), 'float');
  expect(Math.abs(bins?.first ?? Number.NaN)).toBeLessThanOrEqual(1e12);
  for (const [low, high] of [
    ['1e-30', '3e-30'],
    ['1e-25', '9e-25'],
    ['0', '9e30'],
    ['-1e40', '1e41'],
  ] as const) {
    const found = binsFor(facts(low, low, high, high), 'float');
    if (found) expect(BinWidth.safeParse(found.width).success, `${low} to ${high}`).toBe(true);
  }
  expect(binsFor(facts('1e-30', '1e-30', '3e-30', '3e-30'), 'float')).toMatchObject({
    width: narrowestWidth,
  });
  expect(binsFor(facts('0', '0', '1e300', '1e300'), 'float')).toBeNull();
});

test('a width by hand is kept, whole for whole numbers, and never makes more than a hundred ranges', () => {
  expect(binsFor(facts('0', '1', '30', '31'), 'integer', '2.5')).toMatchObject({
    width: '3',
    first: 0,
    last: 10,
  });
  expect(binsFor(facts('0', '1', '9000', '9999'), 'decimal', '0.5')).toEqual({
    width: '0.5',
    first: 2,
    last: 101,
    below: true,
    above: true,
  });
  for (const width of ['0', '0.0', '-1', '', 'x', '1e3'])
    expect(BinWidth.safeParse(width).success).toBe(false);
});

test('whatever the numbers, each is in one range, and only what is said to lie outside lies there', () => {
  const number = fc
    .tuple(fc.bigInt({ min: -(10n ** 24n), max: 10n ** 24n }), fc.integer({ min: 0, max: 9 }))
    .map(([digits, places]) => new Big(String(digits)).div(new Big(10).pow(places)));
  fc.assert(
    fc.property(fc.array(number, { minLength: 1, maxLength: 30 }), fc.boolean(), (numbers, isByHand) => {
      const sorted = [...numbers].sort((a, b) => a.cmp(b));
      const at = (share: number): string =>
        sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]?.toFixed() ?? '';
      const bins = binsFor(facts(at(0), at(0.01), at(0.99), at(1)), 'decimal', isByHand ? '3' : undefined);
      if (!bins) throw new Error('there are numbers');
      expect(bins.last - bins.first).toBeLessThan(100);
      for (const one of numbers) {
        const inside = binNumbers(bins).filter((each) => {
          const { from, to } = boundsOf(each, bins);
          return (from === null || one.gte(from)) && (to === null || one.lt(to));
        });
        expect(inside).toHaveLength(1);
      }
    }),
  );
});
