import type { Dashboard } from '#core/dashboard/schema.ts';
import { type DemoIds, late } from '../data-sets.ts';
import { cardAt, sailingFields, sailingScope } from './parts.ts';

/** What today looks like, and what is late. */
export function morningBrief(ids: DemoIds): Dashboard {
  const today = { field: 'departs_at', period: { kind: 'this' as const, unit: 'day' as const } };
  const card = (
    x: number,
    of: { id: string; title: string; measure: string },
    more: Parameters<typeof cardAt>[2],
  ) =>
    cardAt(x, { dataSet: ids.sailings, ...of }, { h: 4, against: 'whole', behind: sailingFields, ...more });
  const daily = { trend: { field: 'departs_at', unit: 'day' as const, count: 14 } };
  const weekly = { trend: { field: 'departs_at', unit: 'week' as const, count: 12 } };
  const column = (field: string, width?: number) => ({ field, ...(width ? { width } : {}) });
  return {
    version: 4,
    title: 'Morning brief',
    scope: [
      ...sailingScope(ids, { count: 28, unit: 'day' }),
      {
        name: 'delay',
        many: 'delay',
        lead: 'with',
        offer: 'number',
        dataSet: ids.sailings,
        field: 'delay_minutes',
      },
    ],
    panes: [
      card(0, { id: 'today', title: 'Sailings today', measure: 'count' }, { when: today, ...daily }),
      card(
        3,
        { id: 'late-today', title: 'Late so far today', measure: 'late' },
        { when: today, against: 'sameTime', ...daily },
      ),
      card(6, { id: 'punctual', title: 'On time', measure: 'on_time' }, weekly),
      card(9, { id: 'carried', title: 'Passengers carried', measure: 'passengers' }, weekly),
      {
        kind: 'note',
        id: 'in-words',
        title: 'In a sentence',
        text: 'Of **{sailings}** sailings **{late}** left late, most because of **{top cause}** and most on **{latest route}**. Incidents not settled yet: **{waiting}**.',
        otherwise:
          'Of **{sailings}** sailings **{late}** left late. Incidents not settled yet: **{waiting}**.',
        values: [
          { name: 'sailings', dataSet: ids.sailings, measure: 'count', behind: sailingFields },
          { name: 'late', dataSet: ids.sailings, measure: 'late', behind: sailingFields },
          {
            name: 'top cause',
            dataSet: ids.sailings,
            measure: 'late',
            most: 'cause',
            keeping: late,
            behind: sailingFields,
          },
          {
            name: 'latest route',
            dataSet: ids.sailings,
            measure: 'late',
            most: 'route',
            keeping: late,
            behind: sailingFields,
          },
          {
            name: 'waiting',
            dataSet: ids.incidents,
            measure: 'count',
            keeping: { field: 'settled_at', test: { op: 'blank' } },
            when: 'any',
            behind: ['kind', 'severity', 'reported_at', 'note'],
          },
        ],
        place: { x: 0, y: 4, w: 8, h: 3 },
      },
      {
        kind: 'next-one',
        id: 'next',
        title: 'The next departure',
        dataSet: ids.sailings,
        keeping: {
          all: [
            { field: 'departs_at', test: { op: 'during', period: { kind: 'future' } } },
            { field: 'status', test: { op: 'isNot', values: ['cancelled'] } },
          ],
        },
        when: 'any',
        order: [{ by: 'departs_at' }],
        fields: ['departs_at', 'route', 'vessel', 'status'],
        place: { x: 8, y: 4, w: 4, h: 3 },
      },
      {
        kind: 'chart',
        id: 'per-day',
        title: 'Late sailings, day by day',
        dataSet: ids.sailings,
        mark: 'columns',
        measure: 'late',
        by: { field: 'departs_at', unit: 'day' },
        before: true,
        order: 'label',
        behind: sailingFields,
        place: { x: 0, y: 7, w: 7, h: 7 },
      },
      {
        kind: 'chart',
        id: 'causes',
        title: 'Why they were late',
        dataSet: ids.sailings,
        mark: 'bars',
        measure: 'late',
        by: { field: 'cause' },
        order: 'value',
        keeping: late,
        behind: sailingFields,
        place: { x: 7, y: 7, w: 5, h: 7 },
      },
      {
        kind: 'table',
        id: 'late',
        title: 'Late sailings, latest first',
        dataSet: ids.sailings,
        keeping: late,
        columns: [
          column('reference', 104),
          column('route', 200),
          column('vessel', 96),
          column('departs_at', 112),
          column('status', 104),
          { ...column('delay_minutes', 92), bar: true, foot: 'median' },
          column('cause', 112),
        ],
        order: [{ by: 'departs_at', descending: true }],
        pageSize: 10,
        place: { x: 0, y: 14, w: 8, h: 12 },
      },
      {
        kind: 'detail',
        id: 'sailing',
        title: 'The sailing',
        dataSet: ids.sailings,
        fields: [
          'vessel_picture',
          'reference',
          'route',
          'vessel',
          'status',
          'departs_at',
          'left_at',
          'landed_at',
          'delay_minutes',
          'cause',
          'passengers',
          'vehicles',
          'fares',
          'master',
        ],
        place: { x: 8, y: 14, w: 4, h: 12 },
      },
      {
        kind: 'table',
        id: 'incidents',
        title: 'Its incidents',
        dataSet: ids.incidents,
        waitsFor: 'public.sailings.id',
        columns: [
          column('kind', 220),
          column('severity', 110),
          column('reported_at', 130),
          column('note', 260),
          column('settled_at', 130),
        ],
        order: [{ by: 'reported_at' }],
        pageSize: 10,
        place: { x: 0, y: 26, w: 12, h: 6 },
      },
    ],
  };
}
