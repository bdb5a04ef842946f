import { describe, expect, test } from 'vitest';
import type { Calculation } from '#core/ask/measure/schema.ts';
import { sailings } from '#testing/skerry.ts';
import { measureWords } from './measure.ts';

const words = (calculation: Calculation): string => measureWords({ calculation }, sailings);

describe('a measure in words', () => {
  test('names what is counted by the noun of the data set', () => {
    expect(words({ kind: 'count' })).toBe('how many sailings');
  });

  test('names the field by its label', () => {
    expect(words({ kind: 'median', field: 'delay' })).toBe('median of delay');
    expect(words({ kind: 'percentile', field: 'delay', at: 90 })).toBe('percentile 90 of delay');
  });

  test('says both parts of a ratio', () => {
    expect(words({ kind: 'ratio', of: { kind: 'sum', field: 'delay' }, to: { kind: 'count' } })).toBe(
      'sum of delay per how many sailings',
    );
  });

  test('says of which records', () => {
    expect(
      measureWords(
        {
          calculation: { kind: 'count' },
          where: { field: 'delay', test: { op: 'atLeast', value: '15' } },
        },
        sailings,
      ),
    ).toBe('how many sailings, keeping delay is at least 15');
  });

  test('a field that has gone is named as it was, not left out', () => {
    expect(words({ kind: 'sum', field: 'fare_paid' })).toBe('sum of fare paid');
  });
});
