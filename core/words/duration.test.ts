import { expect, test } from 'vitest';
import { durationWords } from './duration.ts';

test.each([
  [0, '0 s'],
  [59.4, '59 s'],
  [60, '1 min'],
  [95, '1 min 35 s'],
  [12 * 60 + 5, '12 min'],
  [3600, '1 h'],
  [7500, '2 h 5 min'],
  [19 * 60 + 58, '20 min'],
  [3599, '1 h'],
  [86_399, '1 day'],
  [86_400, '1 day'],
  [3 * 86_400 + 7200, '3 days 2 h'],
  [-30, '30 s'],
])('%s seconds are “%s”', (seconds, words) => {
  expect(durationWords(seconds)).toBe(words);
});
