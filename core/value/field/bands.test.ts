import { describe, expect, test } from 'vitest';
import { bandOf } from './band-of.ts';
import { Bands } from './bands.ts';

const poor = { word: 'poor', tone: 'broken' as const };
const fair = { word: 'fair', tone: 'slipping' as const };
const bands = [{ mark: poor }, { from: '0.8', mark: fair }, { from: '0.9' }];

describe('bands', () => {
  test('a number is in the band that begins at or below it, to the last digit', () => {
    expect(bandOf('0.79999999999999999999', bands)).toBe(poor);
    expect(bandOf('0.80', bands)).toBe(fair);
    expect(bandOf('0.9', bands)).toBeNull();
    expect(bandOf('-5', bands)).toBe(poor);
  });

  test('what is blank or no number is in none, and what is beyond all numbers in the outermost', () => {
    const outer = [{ mark: poor }, { from: '1', mark: fair }];
    expect([null, undefined, 'NaN', ''].map((cell) => bandOf(cell, outer))).toEqual([null, null, null, null]);
    expect(bandOf('-Infinity', outer)).toBe(poor);
    expect(bandOf('Infinity', outer)).toBe(fair);
    expect(bandOf('3', undefined)).toBeNull();
  });

  test.each([
    ['two that overlap', [{}, { from: '30' }, { from: '20' }], 'above the one before'],
    ['two that begin at one number', [{}, { from: '2' }, { from: '2.0' }], 'above the one before'],
    ['a first one with a bound, so that what is below it is not said', [{ from: '1' }], 'below all numbers'],
    ['one that begins nowhere', [{}, {}], 'begins at a number'],
    ['one that begins at no number', [{}, { from: 'ten' }], 'begins at a number'],
  ])('%s cannot be defined', (_, given, why) => {
    const parsed = Bands.safeParse(given);
    expect(parsed.error?.issues.map(({ message }) => message).join()).toContain(why);
  });

  test('“above 20 or below 30” leaves no number with two marks and none without an answer', () => {
    const two = Bands.parse([{ mark: poor }, { from: '20', mark: fair }, { from: '30', mark: poor }]);
    expect(['19', '20', '25', '30'].map((cell) => bandOf(cell, two)?.word)).toEqual([
      'poor',
      'fair',
      'fair',
      'poor',
    ]);
  });
});
