import { describe, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import { spanWithin } from './span.ts';

const within = (from: string | null, to: string | null, field = 'at'): Filter => ({
  field,
  test: { op: 'within', from, to },
});
const day = (n: number): string => `2026-11-${String(n).padStart(2, '0')}T00:00:00.000Z`;
const known = { least: day(2), greatest: day(20) };

describe('between which instants those of a field are', () => {
  test('is as narrow as is known and as is asked for', () => {
    expect(spanWithin(within(day(5), day(28)), 'at', known)).toEqual({ least: day(5), greatest: day(20) });
    expect(spanWithin({ all: [within(day(1), null), within(null, day(9))] }, 'at', known)).toEqual({
      least: day(2),
      greatest: day(9),
    });
    expect(spanWithin(within(day(5), day(9)), 'at')).toEqual({ least: day(5), greatest: day(9) });
  });

  test.each<[string, Filter]>([
    ['one side is open', within(day(5), null)],
    ['another field is asked about', within(day(5), day(9), 'booked')],
    ['it is one of several', { any: [within(day(5), day(9)), within(day(11), day(12))] }],
    ['a bound is no moment', within('soon', day(9))],
  ])('is not known where %s', (_, where) => {
    expect(spanWithin(where, 'at')).toBeUndefined();
  });

  test('has moments of years with more than four digits too', () => {
    const [from, to] = ['+010000-01-01T00:00:00.000Z', '+010001-01-01T00:00:00.000Z'];
    expect(spanWithin(within(from, to), 'at')).toEqual({ least: from, greatest: to });
  });
});
