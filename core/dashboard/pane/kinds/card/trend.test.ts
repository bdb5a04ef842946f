import { describe, expect, test } from 'vitest';
import type { Unit } from '#core/value/period/units.ts';
import { askTrend } from './trend.ts';

const field = { name: 'departs', type: 'instant' } as const;
const planned = { name: 'n', calculation: { kind: 'count' } } as const;
const from = {} as never;
// Two in the afternoon in London, in a week that began on Monday 23.
const clock = { now: new Date('2026-11-27T14:00:00Z'), zone: 'Europe/London' };
const trend = (unit: Unit, count: number, about: { to: Date } | null = null, more = planned as never) =>
  askTrend(
    { field: 'departs', unit, count },
    field,
    { about: about as never, others: [], planned: more },
    { from, clock },
  );

describe('the trend of a card', () => {
  test('is of whole units up to the one that goes on, and says that it does', () => {
    const { plan, shape } = trend('day', 3);
    expect(plan.where).toEqual({
      field: 'departs',
      test: { op: 'within', from: '2026-11-25T00:00:00.000Z', to: '2026-11-28T00:00:00.000Z' },
    });
    expect(
      shape([
        ['2026-11-25', '4'],
        ['2026-11-27', '2'],
      ]),
    ).toEqual({
      unit: 'day',
      values: ['4', '0', '2'],
      isOpen: true,
    });
  });

  test('of a period that is over ends with it', () => {
    const { shape } = trend('month', 2, { to: new Date('2026-11-01T00:00:00Z') });
    expect(
      shape([
        ['2026-09-01', '7'],
        ['2026-10-01', '8'],
      ]),
    ).toEqual({
      unit: 'month',
      values: ['7', '8'],
      isOpen: false,
    });
  });

  test('of hours has whole ones too', () => {
    const { plan, shape } = trend('hour', 2);
    expect(plan.where).toEqual({
      field: 'departs',
      test: { op: 'within', from: '2026-11-27T13:00:00.000Z', to: '2026-11-27T15:00:00.000Z' },
    });
    expect(shape([['2026-11-27T14:00:00Z', '5']]).values).toEqual(['0', '5']);
  });

  test('a sum of records that are all blank is blank, of no records it is nothing', () => {
    const sum = { name: 's', calculation: { kind: 'sum', field: 'fares' } } as never;
    expect(trend('day', 2, null, sum).shape([['2026-11-26', null]]).values).toEqual([null, '0']);
  });

  test('a unit without records has no average', () => {
    const average = { name: 'n', calculation: { kind: 'average', field: 'delay' } } as never;
    expect(trend('day', 2, null, average).shape([['2026-11-26', '1.5']]).values).toEqual(['1.5', null]);
  });
});
