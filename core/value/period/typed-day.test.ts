import { expect, test } from 'vitest';
import { typedDay } from './typed-day.ts';

test('a day is read as people in Britain write it', () => {
  for (const text of [
    '2026-11-23',
    '23/11/2026',
    '23 Nov 2026',
    '23 november 2026',
    '23.11.2026',
    '23nov 2026',
  ])
    expect(typedDay(text, '2026'), text).toBe('2026-11-23');
  expect(typedDay('3 Nov', '2026')).toBe('2026-11-03');
  expect(typedDay('3/11', '2026')).toBe('2026-11-03');
});

test('what is no day is none', () => {
  for (const text of ['', '31/02/2026', '31 Feb 2026', '11/23/2026', '2026-13-01', 'soon', '23 Nox 2026'])
    expect(typedDay(text, '2026'), text).toBeNull();
});
