import { expect, test } from 'vitest';
import { panes } from '#testing/skerry.ts';
import { shapeChart, shapeCharts } from './shape.ts';

test('units of time that are not whole are marked: the one that goes on, and those cut by the period', () => {
  const chart = { ...panes.weeks, by: { field: 'departs', unit: 'month' as const } } as const;
  const plan = {
    by: [{ field: 'departs', unit: 'month' }],
    measures: [{ name: 'n', calculation: { kind: 'count' } }],
    zone: 'UTC',
  } as never;
  const records = [
    ['2026-09-01', '3'],
    ['2026-10-01', '4'],
    ['2026-11-01', '1'],
  ];
  const span = {
    from: new Date('2026-09-10T00:00:00Z'),
    to: new Date('2026-12-01T00:00:00Z'),
    fromDay: '2026-09-10',
    toDay: '2026-12-01',
  };
  const { categories } = shapeChart(chart, plan, records, span, { now: new Date('2026-11-27T00:00:00Z') });
  expect(categories.map(({ partial }) => partial ?? 'whole')).toEqual(['in part', 'whole', 'so far']);
});

test('a chart for each value has the categories and series of all, in the order of the values, and values of its own alone', () => {
  const chart = {
    ...panes.weeks,
    by: { field: 'departs', unit: 'month' as const },
    split: 'cause',
    each: { field: 'route', count: 12 },
  } as const;
  const plan = {
    by: [{ field: 'route' }, { field: 'departs', unit: 'month' }, { field: 'cause' }],
    measures: [{ name: 'n', calculation: { kind: 'count' } }],
    top: { count: 12, rest: false },
    zone: 'UTC',
  } as never;
  const records = [
    [false, 'South', '2026-09-01', 'tide', '3'],
    [false, 'North', '2026-11-01', 'fog', '5'],
    [false, 'South', '2026-11-01', 'fog', '1'],
  ];
  const { shared, charts } = shapeCharts(chart, plan, records, null, {
    states: {},
    now: new Date('2026-12-05T00:00:00Z'),
    order: undefined,
  });
  const months = ['2026-09-01', '2026-10-01', '2026-11-01'];
  expect(charts.map(({ value }) => value)).toEqual(['North', 'South']);
  for (const data of [shared, ...charts.map((each) => each.data)]) {
    expect(data.categories.map(({ value }) => value)).toEqual(months);
    expect(data.series.map(({ value }) => value)).toEqual(['fog', 'tide']);
  }
  expect(charts[0]?.data.series.map(({ values }) => values)).toEqual([
    ['0', '0', '5'],
    ['0', '0', '0'],
  ]);
  expect(charts[1]?.data.series.map(({ values }) => values)).toEqual([
    ['0', '0', '1'],
    ['3', '0', '0'],
  ]);
});
