import { describe, expect, test } from 'vitest';
import type { Filter } from '#core/ask/condition/resolve.ts';
import { allOf } from '#core/plan/plan.ts';
import { commonFilter, isPartOf, stretchesOf } from './common.ts';

const is = (field: string, ...values: (string | null)[]): Filter => ({ field, test: { op: 'is', values } });
const within = (from: string | null, to: string | null, field = 'at'): Filter => ({
  field,
  test: { op: 'within', from, to },
});
const day = (n: number): string => `2026-11-${String(n).padStart(2, '0')}T00:00:00.000Z`;

describe('what all filters let through', () => {
  test('has what all of them have, and lies around their stretches', () => {
    expect(
      commonFilter([
        allOf([is('gate', 'A'), within(day(10), day(20))]),
        { all: [within(day(3), day(15)), { all: [is('outcome', 'refused')] }, is('gate', 'A')] },
      ]),
    ).toEqual(allOf([is('gate', 'A'), within(day(3), day(20))]));
  });

  test.each<[string, Filter[]]>([
    ['one asks for others', [is('gate', 'A'), is('gate', 'B')]],
    ['one asks for all', [is('gate', 'A'), { all: [] }]],
    ['one has no stretch', [within(day(1), day(2)), is('gate', 'A')]],
    ['their stretches are of different fields', [within(day(1), day(2)), within(day(1), day(2), 'booked')]],
    ['one may be anything of several', [is('gate', 'A'), { any: [is('gate', 'A'), is('gate', 'B')] }]],
    ['both ends are open', [within(null, day(2)), within(day(1), null)]],
    [
      'their years are not in the order of their texts',
      [within('+010000-01-01', null), within(day(1), null)],
    ],
  ])('has nothing where %s', (_, filters) => {
    expect(commonFilter(filters)).toEqual({ all: [] });
  });

  test('is open where one is', () => {
    expect(commonFilter([within(null, day(2)), within(day(1), day(5))])).toEqual(within(null, day(5)));
  });
});

describe('whether records are among others', () => {
  const scope = allOf([is('gate', 'A'), within(day(5), day(10))]);

  test.each<[string, Filter]>([
    ['itself', scope],
    ['one of its conditions', is('gate', 'A')],
    ['a longer stretch', within(day(5), day(28))],
    ['one without an end', within(day(1), null)],
    ['all that have a moment', within(null, null)],
    ['all', { all: [] }],
  ])('those of a filter are among those of %s', (_, wider) => {
    expect(isPartOf(scope, wider)).toBe(true);
  });

  test.each<[string, Filter]>([
    ['another value', is('gate', 'B')],
    ['one condition more', allOf([scope, is('outcome', 'refused')])],
    ['a stretch that begins later', within(day(6), day(28))],
    ['one that ends sooner', within(day(1), day(9))],
    ['a stretch of another field', within(day(1), day(28), 'booked')],
    ['a year that does not sort as text', within('+010000-01-01T00:00:00.000Z', null)],
    ['something of several', { any: [is('gate', 'A'), is('gate', 'B')] }],
  ])('but not among those of %s', (_, wider) => {
    expect(isPartOf(scope, wider)).toBe(false);
  });

  test('a stretch that is open is not within one that ends', () => {
    expect(isPartOf(within(day(5), null), within(day(1), day(28)))).toBe(false);
  });

  test('the stretches of a filter are those that it sets itself', () => {
    expect(stretchesOf(allOf([scope, { any: [within(day(1), day(2))] }]))).toEqual(within(day(5), day(10)));
  });
});
