import { expect, test } from 'vitest';
import { nextRefresh, scheduleProblem } from './next.ts';

const at = new Date('2026-11-23T06:40:00Z');
const next = (...args: Parameters<typeof nextRefresh>): string | null =>
  nextRefresh(...args)?.toISOString() ?? null;

test('by hand is never due by itself', () => {
  expect(next({ kind: 'by hand' }, at, 0)).toBeNull();
  expect(next({ kind: 'by hand' }, at, 3)).toBeNull();
});

test('minutes count from the end of the refresh before', () => {
  expect(next({ kind: 'minutes', minutes: 15 }, at, 0)).toBe('2026-11-23T06:55:00.000Z');
});

test('cron is read in the zone of the desk, on either side of a change of clocks', () => {
  const morning = { kind: 'cron' as const, text: '30 6 * * *', zone: 'Europe/London' };
  expect(next(morning, new Date('2026-03-28T12:00:00Z'), 0)).toBe('2026-03-29T05:30:00.000Z');
  expect(next(morning, new Date('2026-10-24T12:00:00Z'), 0)).toBe('2026-10-25T06:30:00.000Z');
});

test('failures make the wait longer and longer, never shorter than the schedule, and never endless', () => {
  const often = { kind: 'minutes' as const, minutes: 1 };
  expect(next(often, at, 1)).toBe('2026-11-23T06:41:00.000Z');
  expect(next(often, at, 4)).toBe('2026-11-23T06:48:00.000Z');
  expect(next(often, at, 40)).toBe('2026-11-23T12:40:00.000Z');
  expect(next({ kind: 'minutes', minutes: 600 }, at, 2)).toBe('2026-11-23T16:40:00.000Z');
});

test('a cron text that cannot be followed is told why', () => {
  const cron = (text: string, zone = 'UTC') => scheduleProblem({ kind: 'cron', text, zone });
  expect(cron('40 6 * * 1-5')).toBeNull();
  expect(cron('40 6 * *')).toContain('five fields');
  expect(cron('61 6 * * *')).toBeTruthy();
  expect(cron('0 0 30 2 *')).toBe('it never comes due');
  expect(cron('0 0 * * *', 'Skerry/Sound')).toBeTruthy();
});
