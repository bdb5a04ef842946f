import { expect, test } from 'vitest';
import { cronOf, sendingWords } from './sending.ts';

test.each([
  ['07:30', [], '30 7 * * *', 'every day at 07:30'],
  ['07:30', [0, 1, 2, 3, 4, 5, 6], '30 7 * * *', 'every day at 07:30'],
  ['00:05', [5, 4, 3, 2, 1], '5 0 * * 1,2,3,4,5', 'from Monday to Friday at 00:05'],
  ['16:00', [0], '0 16 * * 0', 'on Sundays at 16:00'],
  ['16:00', [0, 1, 5], '0 16 * * 1,5,0', 'on Mondays, Fridays and Sundays at 16:00'],
])('at %s on %j', (at, on, cron, words) => {
  expect(cronOf(at, on)).toBe(cron);
  expect(sendingWords(cron)).toBe(words);
});
