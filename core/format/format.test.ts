import { describe, expect, test } from 'vitest';
import { formatCell, formatDate, formatNumber, formatPercent, formatUnit } from './format.ts';

describe('numbers', () => {
  test('are written from their exact text: no digit passes through a float', () => {
    expect(formatNumber('9007199254740993')).toBe('9,007,199,254,740,993');
    expect(formatNumber('12345678901234567890.10', 2)).toBe('12,345,678,901,234,567,890.10');
  });

  test('round half away from zero, as money does', () => {
    expect(formatNumber('2.675', 2)).toBe('2.68');
    expect(formatNumber('-2.675', 2)).toBe('−2.68');
    expect(formatNumber('1.005', 2)).toBe('1.01');
  });

  test('as percentages keep their exactness', () => {
    expect(formatPercent('0.8634', 1)).toBe('86.3%');
  });
});

describe('moments', () => {
  test('are written in the zone of the desk, on either side of a clock change', () => {
    expect(formatCell('2026-03-29T00:59:00Z', { type: 'instant' }, 'Europe/London')).toBe('29 Mar, 00:59');
    expect(formatCell('2026-03-29T01:00:00Z', { type: 'instant' }, 'Europe/London')).toBe('29 Mar, 02:00');
  });

  test('that are none are shown as they came', () => {
    expect(formatCell('infinity', { type: 'instant' }, 'UTC')).toBe('infinity');
  });

  test('of dates have no zone: the day never moves', () => {
    expect(formatDate('2026-01-01')).toBe('1 Jan 2026');
    expect(formatUnit('2026-10-01', 'quarter', 'Pacific/Apia')).toBe('Q4 2026');
  });
});

test('a state is shown by its word', () => {
  const field = {
    type: 'text' as const,
    states: [{ value: 'x', word: 'Cancelled', tone: 'broken' as const }],
  };
  expect(formatCell('x', field, 'UTC')).toBe('Cancelled');
  expect(formatCell('y', field, 'UTC')).toBe('y');
  expect(formatCell(null, field, 'UTC')).toBe('—');
});
