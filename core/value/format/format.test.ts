import { describe, expect, test } from 'vitest';
import {
  formatCell,
  formatDate,
  formatNumber,
  formatPercent,
  formatUnit,
  sharedDecimals,
  withUnit,
} from './format.ts';

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

  test('that are something are never written as nothing, and nothing has no sign', () => {
    expect(formatNumber('0.0042')).toBe('0.0042');
    expect(formatNumber('1e-30')).toBe('1E−30');
    expect(formatNumber('-1e-30')).toBe('−1E−30');
    expect(formatNumber('-0.001', 2)).toBe('0.00');
    expect(formatNumber('0')).toBe('0');
    expect(formatNumber('NaN')).toBe('NaN');
  });

  test('of years and identifiers have no thousands marks', () => {
    expect(formatCell('1966', { name: 'built_year', type: 'integer' }, 'UTC')).toBe('1966');
    expect(formatCell('7404', { name: 'sailing_id', type: 'integer' }, 'UTC')).toBe('7404');
    expect(formatCell('7404', { name: 'passengers', type: 'integer' }, 'UTC')).toBe('7,404');
    expect(formatCell('7404', { name: 'paid', type: 'integer' }, 'UTC')).toBe('7,404');
  });

  test('of money keep their decimals, with the sign of the currency before them', () => {
    expect(formatCell('0.5', { type: 'decimal', unit: '$' }, 'UTC')).toBe('0.50');
    expect(withUnit(formatCell('-5162.75', { type: 'decimal', unit: '£' }, 'UTC'), '£')).toBe('−£5,162.75');
    expect(withUnit('12', 'min')).toBe('12 min');
  });

  test('of one column share their decimals, up to two', () => {
    expect(sharedDecimals(['2.96', '0.6', '10'])).toBe(2);
    expect(sharedDecimals(['1.5', '2.0'])).toBe(1);
    expect(sharedDecimals(['1', '20'])).toBe(0);
  });

  test('as percentages keep their exactness', () => {
    expect(formatPercent('0.8634', 1)).toBe('86.3%');
  });
});

describe('moments', () => {
  test('are written in the zone of the desk, on either side of a clock change', () => {
    const by = { zone: 'Europe/London', now: new Date('2026-11-23T12:00:00Z') };
    expect(formatCell('2026-03-29T00:59:00Z', { type: 'instant' }, by)).toBe('29 Mar, 00:59');
    expect(formatCell('2026-03-29T01:00:00Z', { type: 'instant' }, by)).toBe('29 Mar, 02:00');
  });

  test('leave the year out only when it is this year’s, where the reader is', () => {
    const by = { zone: 'Europe/London', now: new Date('2026-01-01T00:30:00Z') };
    expect(formatCell('2001-01-01T00:01:00Z', { type: 'instant' }, by)).toBe('1 Jan 2001, 00:01');
    expect(formatCell('2026-01-01T00:01:00Z', { type: 'instant' }, by)).toBe('1 Jan, 00:01');
    expect(formatCell('2025-12-31T23:59:00Z', { type: 'instant' }, by)).toBe('31 Dec 2025, 23:59');
    expect(formatCell('2026-01-01T00:01:00Z', { type: 'instant' }, 'Europe/London')).toBe(
      '1 Jan 2026, 00:01',
    );
    expect(formatDate('2026-03-01', 'short', by)).toBe('1 Mar');
    expect(formatDate('2025-03-01', 'short', by)).toBe('1 Mar 2025');
    expect(formatUnit('2025-12-22', 'week', by)).toBe('22 Dec 2025');
    expect(formatUnit('2026-11-23', 'day', by)).toBe('23 Nov');
    expect(formatUnit('2025-11-23T05:00:00Z', 'hour', by)).toBe('23 Nov 2025, 05:00');
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
