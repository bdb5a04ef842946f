import { expect, test } from 'vitest';
import { lateChangeSentence } from './late-change.ts';

test('a change that kept records do not have yet is told with its moment, and what it is not among', () => {
  const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'Europe/London' };
  const change = { at: '2026-11-23T11:59:30Z', many: ['passages', 'passages', 'scans'] };
  expect(lateChangeSentence(change, clock)).toBe(
    'What was changed at 11:59 is not among the passages and scans shown yet; they are being fetched again.',
  );
});
