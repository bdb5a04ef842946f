import { expect, test } from 'vitest';
import { panes } from '#testing/skerry.ts';
import { shapeChart } from './shape.ts';

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
