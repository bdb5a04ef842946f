import { describe, expect, test } from 'vitest';
import { guessType, type Looks } from './guess.ts';

const looks = (some: Partial<Looks>): Looks => ({
  filled: 100,
  integers: 0,
  decimals: 0,
  floats: 0,
  booleans: 0,
  dates: 0,
  instants: 0,
  nested: 0,
  padded: 0,
  wholeDigits: 0,
  decimalDigits: 0,
  ...some,
});

describe('the type of a column', () => {
  test('is the narrowest that every text has', () => {
    expect(guessType(looks({ integers: 100, decimals: 100, floats: 100 }))).toEqual({ type: 'integer' });
    expect(guessType(looks({ integers: 40, decimals: 100, floats: 100 }))).toEqual({ type: 'decimal' });
    expect(guessType(looks({ integers: 40, decimals: 90, floats: 100 }))).toEqual({ type: 'float' });
    expect(guessType(looks({ dates: 100 }))).toEqual({ type: 'date' });
    expect(guessType(looks({ booleans: 100 }))).toEqual({ type: 'boolean' });
  });

  test('that changes half-way is text, and says what most of it is and how many are not', () => {
    expect(guessType(looks({ integers: 97, decimals: 97, floats: 97 }))).toEqual({
      type: 'text',
      nearly: { type: 'integer', others: 3 },
    });
    expect(guessType(looks({ integers: 50, decimals: 50, floats: 50 }))).toEqual({ type: 'text' });
  });

  test('of codes with zeros in front is text: 007 is no 7', () => {
    expect(guessType(looks({ integers: 100, decimals: 100, floats: 100, padded: 1 })).type).toBe('text');
  });

  test('of more digits than can be kept exactly is never rounded into a decimal', () => {
    expect(guessType(looks({ decimals: 100, wholeDigits: 30, decimalDigits: 12 })).type).toBe('text');
  });

  test('without a single value is text', () => {
    expect(guessType(looks({ filled: 0 }))).toEqual({ type: 'text' });
  });
});
