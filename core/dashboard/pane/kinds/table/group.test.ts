import { expect, test } from 'vitest';
import type { DayUnit } from '#core/value/period/units.ts';
import { fromTable, recordsOf } from '#testing/plans.ts';
import { groupName, groupValue, headsPlan, isWithin } from './group.ts';

const fields = [
  { name: 'route', type: 'text' as const },
  { name: 'delay', type: 'integer' as const },
];
const list = recordsOf(fromTable('sailing', fields), {
  fields: ['route', 'delay'],
  where: { field: 'delay', test: { op: 'atLeast', value: '5' } },
  offset: 20,
  limit: 10,
});
const columns = [{ field: 'route' }, { field: 'delay', foot: 'sum' as const, bar: true }];

test('heads are of all records that the table has of the values in view, and of no others', () => {
  const heads = headsPlan(
    [{ field: { name: 'route', type: 'text' } }],
    [['North'], ['North'], [null]],
    columns,
    fields,
    list,
  );
  expect(heads.plan).toMatchObject({
    kind: 'groups',
    by: [{ field: 'route' }],
    where: { all: [list.where, { field: 'route', test: { op: 'is', values: ['North', null] } }] },
  });
  expect(heads.plan.measures.map(({ calculation }) => calculation)).toEqual([
    { kind: 'count' },
    { kind: 'sum', field: 'delay' },
  ]);
});

test('a head says how many records it is of, and what stands below the columns for those', () => {
  const heads = headsPlan(
    [{ field: { name: 'route', type: 'text' } }],
    [['North'], [null]],
    columns,
    fields,
    list,
  );
  expect(
    heads.shape([
      ['North', '12', '340'],
      [null, '1', null],
    ]),
  ).toEqual([
    { values: ['North'], count: '12', feet: { delay: { footing: 'sum', value: '340', type: 'integer' } } },
    { values: [null], count: '1', feet: { delay: { footing: 'sum', value: null, type: 'integer' } } },
  ]);
});

test('by a unit of time, a record stands under the day that it begins with, by the clocks of the zone', () => {
  const departs = { name: 'departs', type: 'instant' as const };
  const zone = 'America/St_Johns';
  const values = (unit: DayUnit) =>
    ['2026-11-23T03:29:59Z', '2026-11-23T03:30:00Z', '2027-01-01T03:00:00Z'].map((at) =>
      groupValue(at, { field: departs, unit }, zone),
    );
  expect(values('day')).toEqual(['2026-11-22', '2026-11-23', '2026-12-31']);
  expect(values('week')).toEqual(['2026-11-16', '2026-11-23', '2026-12-28']);
  expect(values('quarter')).toEqual(['2026-10-01', '2026-10-01', '2026-10-01']);
  expect(groupValue('2027-01-03', { field: { name: 'due', type: 'date' }, unit: 'week' }, zone)).toBe(
    '2026-12-28',
  );
  expect(groupValue(null, { field: departs, unit: 'day' }, zone)).toBeNull();
  expect(groupValue('infinity', { field: departs, unit: 'day' }, zone)).toBe('infinity');
});

test('heads of units of time are of all from the first in view to the last, and of the blanks where some are in view', () => {
  const group = { field: { name: 'departs', type: 'instant' as const }, unit: 'month' as const };
  const heads = headsPlan([group], [['2026-11-01'], ['2026-09-01'], [null]], columns, fields, list);
  expect(heads.plan.by).toEqual([{ field: 'departs', unit: 'month' }]);
  expect(heads.plan.where).toEqual({
    all: [
      list.where,
      {
        any: [
          {
            field: 'departs',
            // By the clocks of London, which are still an hour ahead in September.
            test: { op: 'within', from: '2026-08-31T23:00:00.000Z', to: '2026-12-01T00:00:00.000Z' },
          },
          { field: 'departs', test: { op: 'blank' } },
        ],
      },
    ],
  });
});

test('a blank is told from the word', () => {
  expect(groupName([null])).not.toBe(groupName(['blank']));
  expect(groupName([true])).toBe('is true');
});

test('what stands within another group has a name of its own, whatever marks its values hold', () => {
  const paths = [['a', 'b'], ['a|is b'], ['a\\', 'b'], ['a\\|is b'], ['a', null], ['a']];
  expect(new Set(paths.map(groupName)).size).toBe(paths.length);
});

test('what stands within a closed group is hidden, its own head is not', () => {
  const closed = new Set(['', groupName(['North']), groupName(['South', '7'])]);
  expect(isWithin(closed, ['North', '7'])).toBe(true);
  expect(isWithin(closed, ['North'])).toBe(false);
  expect(isWithin(closed, ['South', '7'])).toBe(false);
  expect(isWithin(closed, ['South', '7', null])).toBe(true);
  expect(isWithin(closed, [])).toBe(false);
});

test('heads within others are of the records under those alone', () => {
  const groups = [
    { field: { name: 'departs', type: 'instant' as const }, unit: 'day' as const },
    { field: { name: 'route', type: 'text' as const } },
  ];
  const paths = [
    ['2026-11-02', 'North'],
    ['2026-11-02', null],
    ['2026-11-02', 'North'],
    ['2026-11-01', 'South'],
  ];
  const { plan, shape } = headsPlan(groups, paths, columns, fields, list);
  const onDay = (from: string, to: string) => ({
    field: 'departs',
    test: { op: 'within', from: `${from}T00:00:00.000Z`, to: `${to}T00:00:00.000Z` },
  });
  const among = (...values: (string | null)[]) => ({ field: 'route', test: { op: 'is', values } });
  expect(plan.where).toEqual({
    all: [
      list.where,
      {
        any: [
          { all: [onDay('2026-11-02', '2026-11-03'), among('North', null)] },
          { all: [onDay('2026-11-01', '2026-11-02'), among('South')] },
        ],
      },
    ],
  });
  expect(plan.by).toEqual([{ field: 'departs', unit: 'day' }, { field: 'route' }]);
  expect(shape([['2026-11-02', 'North', '3', '40']])).toEqual([
    {
      values: ['2026-11-02', 'North'],
      count: '3',
      feet: { delay: { footing: 'sum', value: '40', type: 'integer' } },
    },
  ]);
});
