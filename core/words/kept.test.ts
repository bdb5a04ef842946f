import { expect, test } from 'vitest';
import { scheduleWords } from './kept.ts';

test('a schedule is said in the largest unit that it is whole in', () => {
  const every = (minutes: number): string => scheduleWords({ kind: 'minutes', minutes });
  expect([1, 15, 60, 90, 120, 1440, 2880].map(every)).toEqual([
    'every minute',
    'every 15 minutes',
    'every hour',
    'every 90 minutes',
    'every 2 hours',
    'every day',
    'every 2 days',
  ]);
  expect(scheduleWords({ kind: 'by hand' })).toBe('only when somebody asks');
  expect(scheduleWords({ kind: 'cron', text: '40 6 * * 1-5', zone: 'UTC' })).toBe(
    'by the clock (40 6 * * 1-5)',
  );
});
