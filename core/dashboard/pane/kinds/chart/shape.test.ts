import { expect, test } from 'vitest';
import { panes } from '#testing/skerry.ts';
import type { ChartPane } from './schema.ts';
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

test('all others together stand last, and are no value that is blank', () => {
  const { charts } = shapeCharts(
    {
      ...panes.weeks,
      by: { field: 'departs', unit: 'month' },
      each: { field: 'route', count: 1, rest: true },
    },
    {
      by: [{ field: 'route' }, { field: 'departs', unit: 'month' }],
      measures: [counted],
      top: { count: 1, rest: true },
      zone: 'UTC',
    } as never,
    [
      [false, 'South', '2026-09-01', '3'],
      [false, null, '2026-09-01', '2'],
      [true, null, '2026-09-01', '9'],
    ],
    null,
    { states: {}, now: new Date('2026-12-05T00:00:00Z'), order: undefined },
  );
  expect(charts.map(({ value, rest, data }) => [value, rest ?? false, data.series[0]?.values[0]])).toEqual([
    ['South', false, '3'],
    [null, false, '2'],
    [null, true, '9'],
  ]);
});

test('charts stand by what the measure is of each value, where told, those of which that is not known after them', () => {
  const { charts } = shapeCharts(
    {
      ...panes.weeks,
      by: { field: 'departs', unit: 'month' },
      each: { field: 'route', count: 3, order: 'value' },
    },
    {
      by: [{ field: 'route' }, { field: 'departs', unit: 'month' }],
      measures: [counted],
      top: { count: 3, rest: true },
      zone: 'UTC',
    } as never,
    [
      [false, 'East', '2026-09-01', '1'],
      [false, 'North', '2026-09-01', '2'],
      [false, 'South', '2026-09-01', '3'],
      [true, null, '2026-09-01', '9'],
    ],
    null,
    {
      states: {},
      now: new Date('2026-12-05T00:00:00Z'),
      order: undefined,
      sizes: [
        ['South', '3'],
        ['North', '2'],
      ],
    },
  );
  expect(charts.map(({ value }) => value)).toEqual(['South', 'North', 'East', null]);
});

const days = (more: Partial<ChartPane>): ChartPane => ({
  ...panes.weeks,
  by: { field: 'departs', unit: 'day' },
  ...more,
});
const dayPlan = (measures: readonly object[]) =>
  ({ by: [{ field: 'departs', unit: 'day' }], measures, zone: 'UTC' }) as never;
const counted = { name: 'n', calculation: { kind: 'count' } };

test('added up, each day is all that was up to then, exactly; days to come are blank, and not as many as today', () => {
  const span = {
    from: new Date('2026-11-01T00:00:00Z'),
    to: new Date('2026-11-06T00:00:00Z'),
    fromDay: '2026-11-01',
    toDay: '2026-11-06',
  };
  const { series } = shapeChart(
    days({ running: true }),
    dayPlan([{ name: 'fares', calculation: { kind: 'sum', field: 'fares' } }]),
    [
      ['2026-11-01', '0.1'],
      ['2026-11-03', '0.2'],
    ],
    span,
    { now: new Date('2026-11-04T10:00:00Z') },
  );
  expect(series[0]?.values).toEqual(['0.1', '0.1', '0.3', '0.3', null]);
});

test('a second measure has its values beside the first, and is blank or nothing where there are no records', () => {
  const data = shapeChart(
    days({ second: 'average delay' }),
    dayPlan([counted, { name: 'average delay', calculation: { kind: 'average', field: 'delay' } }]),
    [
      ['2026-11-01', '3', '4.5'],
      ['2026-11-03', '1', null],
    ],
    null,
  );
  expect(data.series).toEqual([{ values: ['3', '0', '1'] }]);
  expect(data.second).toEqual(['4.5', null, null]);
});

test('ranges of numbers follow on each other, those without records too, blanks last', () => {
  const { categories, series } = shapeChart(
    { ...panes.weeks, by: { field: 'delay', bins: {} }, order: 'label' },
    {
      by: [{ field: 'delay', bins: { width: '5', first: -1, last: 2 } }],
      measures: [counted],
      zone: 'UTC',
    } as never,
    [
      ['-1', '2'],
      ['2', '7'],
      [null, '1'],
    ],
    null,
  );
  expect(categories.map(({ value }) => value)).toEqual(['-1', '0', '1', '2', null]);
  expect(series[0]?.values).toEqual(['2', '0', '0', '7', '1']);
});

test('a sum of records that are all blank is blank, not nothing: only where there are no records it is nothing', () => {
  const { series } = shapeChart(
    days({}),
    dayPlan([{ name: 'fares', calculation: { kind: 'sum', field: 'fares' } }]),
    [
      ['2026-11-01', null],
      ['2026-11-03', '2'],
    ],
    null,
  );
  expect(series[0]?.values).toEqual([null, '0', '2']);
});
