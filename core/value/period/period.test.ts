import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  dayOf,
  periodBefore,
  resolvePeriod,
  shiftDay,
  spanOfGroup,
  startOfDayIn,
  unitsIn,
} from './period.ts';
import type { Period } from './schema.ts';
import { units } from './units.ts';

const london = 'Europe/London';
const at = (now: string, zone = london) => ({ now: new Date(now), zone });
const days = (period: Period, now: string) => {
  const { fromDay, toDay } = resolvePeriod(period, at(now));
  return [fromDay, toDay];
};

describe('a period', () => {
  test('of the last 28 days holds today and ends at its midnight, half-open', () => {
    expect(days({ kind: 'last', count: 28, unit: 'day' }, '2026-11-23T12:00:00Z')).toEqual([
      '2026-10-27',
      '2026-11-24',
    ]);
  });

  test('of the last 7 days and this week differ', () => {
    const now = '2026-11-25T12:00:00Z';
    expect(days({ kind: 'last', count: 7, unit: 'day' }, now)).toEqual(['2026-11-19', '2026-11-26']);
    expect(days({ kind: 'this', unit: 'week' }, now)).toEqual(['2026-11-23', '2026-11-30']);
  });

  test('of this week begins on Monday also on a Sunday, as ISO 8601 has it', () => {
    expect(days({ kind: 'this', unit: 'week' }, '2026-11-29T23:00:00Z')).toEqual([
      '2026-11-23',
      '2026-11-30',
    ]);
  });

  test('of a day at the spring clock change is 23 hours long, in autumn 25', () => {
    const hours = (now: string) => {
      const { from, to } = resolvePeriod({ kind: 'this', unit: 'day' }, at(now));
      return ((to?.getTime() ?? 0) - (from?.getTime() ?? 0)) / 3_600_000;
    };
    expect(hours('2026-03-29T12:00:00Z')).toBe(23);
    expect(hours('2026-10-25T12:00:00Z')).toBe(25);
    expect(hours('2026-06-01T12:00:00Z')).toBe(24);
  });

  test('that begins on a day without a midnight ends at the midnight of the day after it', () => {
    // Clocks in Cairo went from midnight to one.
    const clock = { now: new Date('2024-04-26T12:00:00Z'), zone: 'Africa/Cairo' };
    expect(resolvePeriod({ kind: 'this', unit: 'day' }, clock)).toEqual({
      from: new Date('2024-04-25T22:00:00Z'),
      to: new Date('2024-04-26T21:00:00Z'),
      fromDay: '2024-04-26',
      toDay: '2024-04-27',
    });
  });

  test('of today is that of the zone, not of the machine', () => {
    const just = new Date('2026-06-30T23:30:00Z');
    expect(resolvePeriod({ kind: 'this', unit: 'day' }, { now: just, zone: london }).fromDay).toBe(
      '2026-07-01',
    );
    expect(resolvePeriod({ kind: 'this', unit: 'day' }, { now: just, zone: 'UTC' }).fromDay).toBe(
      '2026-06-30',
    );
    expect(
      resolvePeriod({ kind: 'this', unit: 'day' }, { now: just, zone: 'Pacific/Kiritimati' }).fromDay,
    ).toBe('2026-07-01');
  });

  test('of fixed dates includes its last day', () => {
    expect(days({ kind: 'dates', from: '2026-02-01', to: '2026-02-28' }, '2026-11-23T12:00:00Z')).toEqual([
      '2026-02-01',
      '2026-03-01',
    ]);
  });

  test('from yesterday on is open at its end', () => {
    expect(days({ kind: 'onward', count: 1, unit: 'day' }, '2026-11-23T12:00:00Z')).toEqual([
      '2026-11-22',
      null,
    ]);
  });

  test('longer ago than two days moves with the clock to the very moment', () => {
    const { from, to } = resolvePeriod(
      { kind: 'olderThan', count: 2, unit: 'day' },
      at('2026-11-23T12:34:56Z'),
    );
    expect(from).toBeNull();
    expect(to?.toISOString()).toBe('2026-11-21T12:34:56.000Z');
  });

  test('always begins before it ends and holds now where it is the current one, in any zone', () => {
    const zones = fc.constantFrom(
      'UTC',
      london,
      'Asia/Kathmandu',
      'America/St_Johns',
      'Australia/Lord_Howe',
      'Pacific/Apia',
    );
    const moment = fc.integer({ min: Date.UTC(2000, 0, 1), max: Date.UTC(2040, 0, 1) });
    fc.assert(
      fc.property(
        moment,
        zones,
        fc.constantFrom(...units),
        fc.integer({ min: 1, max: 40 }),
        (now, zone, unit, count) => {
          const clock = { now: new Date(now), zone };
          for (const period of [{ kind: 'this', unit } as const, { kind: 'last', count, unit } as const]) {
            const { from, to } = resolvePeriod(period, clock);
            expect(from && to && from < to).toBe(true);
            expect(from && from.getTime() <= now).toBe(true);
            expect(to && to.getTime() >= now).toBe(true);
          }
        },
      ),
      { numRuns: 600 },
    );
  });
});

test('this hour holds now where clocks are put back by half an hour, or at a minute past midnight', () => {
  for (const [zone, at, from] of [
    // 01:45 for the second time: at 02:00 it was 01:30 again.
    ['Australia/Lord_Howe', '2026-04-04T15:15:00Z', '2026-04-04T14:30:00.000Z'],
    ['America/St_Johns', '2006-10-29T02:31:00Z', '2006-10-29T02:30:00.000Z'],
  ] as const) {
    const span = resolvePeriod({ kind: 'this', unit: 'hour' }, { now: new Date(at), zone });
    expect(span.from?.toISOString()).toBe(from);
    expect(span.to?.getTime()).toBe(Date.parse(from) + 3_600_000);
  }
});

describe('the period before', () => {
  const clock = at('2026-11-23T12:00:00Z');
  const bounds = (period: Period) => {
    const span = periodBefore(period, clock);
    return span && [span.fromDay, span.toDay];
  };

  test('ends where the period begins, without gap or overlap', () => {
    expect(bounds({ kind: 'last', count: 28, unit: 'day' })).toEqual(['2026-09-29', '2026-10-27']);
    expect(bounds({ kind: 'this', unit: 'day' })).toEqual(['2026-11-22', '2026-11-23']);
    expect(bounds({ kind: 'this', unit: 'month' })).toEqual(['2026-10-01', '2026-11-01']);
    expect(bounds({ kind: 'dates', from: '2026-03-01', to: '2026-03-31' })).toEqual([
      '2026-01-29',
      '2026-03-01',
    ]);
  });

  test('of an open period does not exist', () => {
    expect(bounds({ kind: 'past' })).toBeNull();
    expect(bounds({ kind: 'dates', from: '2026-03-01', to: null })).toBeNull();
  });
});

describe('days', () => {
  test('shift by calendar months and weeks, keeping to the end of shorter months', () => {
    expect(shiftDay('2026-01-31', 'month', 1)).toBe('2026-02-28');
    expect(shiftDay('2026-11-23', 'week', -1)).toBe('2026-11-16');
    expect(shiftDay('2028-02-29', 'year', 1)).toBe('2029-02-28');
  });

  test('begin at local midnight', () => {
    expect(startOfDayIn('2026-07-01', london).toISOString()).toBe('2026-06-30T23:00:00.000Z');
    expect(dayOf(new Date('2026-06-30T23:00:00Z'), london)).toBe('2026-07-01');
  });

  test('of a group span the whole unit', () => {
    const span = spanOfGroup('2026-10-19', 'week', london);
    expect([span.from?.toISOString(), span.to?.toISOString()]).toEqual([
      '2026-10-18T23:00:00.000Z',
      '2026-10-26T00:00:00.000Z',
    ]);
  });

  test('without records are listed too, also across a clock change', () => {
    expect(unitsIn('2026-10-24', '2026-10-27', 'day', london, 100)).toEqual([
      '2026-10-24',
      '2026-10-25',
      '2026-10-26',
    ]);
    expect(unitsIn('2026-10-25T00:00:00Z', '2026-10-25T03:00:00Z', 'hour', london, 100)).toHaveLength(3);
    expect(unitsIn('2000-01-01', '2026-01-01', 'day', london, 100)).toBeNull();
    expect(unitsIn('2026-10-25T00:10:00Z', '2026-10-25T01:00:00Z', 'hour', 'Asia/Kolkata', 100)).toEqual([
      '2026-10-24T23:30:00Z',
      '2026-10-25T00:30:00Z',
    ]);
    // Clocks were put back by half an hour at 15:00 UTC.
    expect(
      unitsIn('2026-04-04T13:00:00Z', '2026-04-04T18:00:00Z', 'hour', 'Australia/Lord_Howe', 100)?.slice(-2),
    ).toEqual(['2026-04-04T16:30:00Z', '2026-04-04T17:30:00Z']);
  });
});
