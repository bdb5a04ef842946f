import type { Dashboard } from '#core/dashboard/schema.ts';
import { type DemoIds, late } from '../data-sets.ts';
import { cardAt, sailingFields, sailingScope } from './parts.ts';

/** How punctual each route is, month by month. */
export function routePunctuality(ids: DemoIds): Dashboard {
  const thisMonth = { field: 'departs_at', period: { kind: 'this' as const, unit: 'month' as const } };
  const lastMonth = {
    field: 'departs_at',
    period: { kind: 'ago' as const, count: 1, unit: 'month' as const },
  };
  const card = (x: number, id: string, title: string, measure: string) =>
    cardAt(
      x,
      { id, title, dataSet: ids.sailings, measure },
      {
        h: 4,
        against: 'sameTime',
        when: thisMonth,
        trend: { field: 'departs_at', unit: 'month', count: 12 },
        behind: sailingFields,
      },
    );
  const inMonth = (when: typeof thisMonth | typeof lastMonth) => ({
    dataSet: ids.sailings,
    when,
    behind: sailingFields,
  });
  return {
    version: 4,
    title: 'Route punctuality',
    scope: sailingScope(ids, { count: 6, unit: 'month' }),
    panes: [
      card(0, 'punctual', 'On time, this month', 'on_time'),
      card(3, 'late', 'Late, this month', 'late'),
      card(6, 'cancelled', 'Cancelled, this month', 'cancelled'),
      card(9, 'delay', 'Median delay, this month', 'median_delay'),
      {
        kind: 'note',
        id: 'the-month',
        title: 'The month so far',
        text: 'This month **{on time}** of our sailings left on time; last month it was **{last month}**. **{latest route}** was late most often, of **{late}** late sailings in all.',
        otherwise:
          'Nothing has left late yet this month. Last month **{last month}** of our sailings left on time.',
        values: [
          { name: 'on time', measure: 'on_time', ...inMonth(thisMonth) },
          { name: 'last month', measure: 'on_time', ...inMonth(lastMonth) },
          { name: 'late', measure: 'late', ...inMonth(thisMonth) },
          { name: 'latest route', measure: 'late', most: 'route', keeping: late, ...inMonth(thisMonth) },
        ],
        place: { x: 0, y: 4, w: 12, h: 3 },
      },
      {
        kind: 'crosstab',
        id: 'months',
        title: 'On-time rate by route, vessel and month',
        dataSet: ids.sailings,
        down: [{ field: 'route' }, { field: 'vessel' }],
        across: [{ field: 'departs_at', unit: 'month' }],
        measures: ['on_time'],
        cells: 'value',
        order: 'label',
        behind: sailingFields,
        place: { x: 0, y: 7, w: 8, h: 14 },
      },
      {
        kind: 'chart',
        id: 'late-routes',
        title: 'Late sailings by route',
        dataSet: ids.sailings,
        mark: 'bars',
        measure: 'late',
        by: { field: 'route' },
        order: 'value',
        behind: sailingFields,
        place: { x: 8, y: 7, w: 4, h: 6 },
      },
      {
        kind: 'crosstab',
        id: 'causes',
        title: 'Why they were late',
        dataSet: ids.sailings,
        keeping: late,
        down: [{ field: 'cause' }],
        across: [],
        measures: ['count', 'median_delay'],
        cells: 'value',
        order: 'value',
        behind: sailingFields,
        place: { x: 8, y: 13, w: 4, h: 9 },
      },
      {
        kind: 'chart',
        id: 'each-route',
        title: 'On-time rate, route by route, on one scale',
        dataSet: ids.sailings,
        mark: 'line',
        measure: 'on_time',
        by: { field: 'departs_at', unit: 'month' },
        each: { field: 'route', count: 12 },
        order: 'label',
        behind: sailingFields,
        place: { x: 0, y: 22, w: 12, h: 9 },
      },
      {
        kind: 'chart',
        id: 'how-late',
        title: 'How late they left, in minutes',
        dataSet: ids.sailings,
        mark: 'columns',
        measure: 'count',
        by: { field: 'delay_minutes', bins: {} },
        keeping: { field: 'delay_minutes', test: { op: 'filled' } },
        order: 'label',
        behind: sailingFields,
        place: { x: 0, y: 31, w: 6, h: 7 },
      },
      {
        kind: 'chart',
        id: 'carried',
        title: 'Passengers this month, added up, against last month',
        dataSet: ids.sailings,
        mark: 'line',
        measure: 'passengers',
        by: { field: 'departs_at', unit: 'day' },
        running: true,
        before: true,
        when: thisMonth,
        order: 'label',
        behind: sailingFields,
        place: { x: 6, y: 31, w: 6, h: 7 },
      },
      {
        kind: 'crosstab',
        id: 'when-late',
        title: 'Late sailings by weekday and hour of departure',
        dataSet: ids.sailings,
        down: [{ field: 'departs_at', cycle: 'weekday' }],
        across: [{ field: 'departs_at', cycle: 'hourOfDay' }],
        measures: ['late'],
        cells: 'value',
        shaded: true,
        order: 'label',
        behind: sailingFields,
        place: { x: 0, y: 38, w: 12, h: 8 },
      },
    ],
  };
}
