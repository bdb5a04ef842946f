import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DemoIds } from '../data-sets.ts';
import { cardAt } from './parts.ts';

const orderFields = [
  'title',
  'vessel',
  'status',
  'priority',
  'opened_at',
  'due_on',
  'done_at',
  'estimate_hours',
  'deferred_because',
];

/** The work that is to be done on vessels. */
export function vesselUpkeep(ids: DemoIds): Dashboard {
  const unfinished = { field: 'status', test: { op: 'isNot' as const, values: ['done'] } };
  return {
    version: 4,
    title: 'Vessel upkeep',
    scope: [
      { name: 'vessel', many: 'vessels', offer: 'values', dataSet: ids.orders, field: 'vessel' },
      { name: 'priority', many: 'priorities', offer: 'values', dataSet: ids.orders, field: 'priority' },
      {
        name: 'opened',
        many: 'dates',
        lead: 'opened',
        offer: 'dates',
        dataSet: ids.orders,
        field: 'opened_at',
      },
    ],
    panes: [
      cardAt(
        0,
        { id: 'unfinished', title: 'Unfinished', dataSet: ids.orders, measure: 'unfinished' },
        {
          when: 'any',
          behind: orderFields,
        },
      ),
      cardAt(
        3,
        { id: 'overdue', title: 'Overdue', dataSet: ids.orders, measure: 'overdue' },
        {
          when: 'any',
          behind: orderFields,
        },
      ),
      cardAt(
        6,
        { id: 'cost', title: 'Finished work, this month', dataSet: ids.orders, measure: 'cost' },
        {
          against: 'sameTime',
          when: { field: 'done_at', period: { kind: 'this', unit: 'month' } },
          trend: { field: 'done_at', unit: 'month', count: 12 },
          behind: orderFields,
        },
      ),
      {
        kind: 'next-one',
        id: 'next-due',
        title: 'Due first, among mine',
        dataSet: ids.orders,
        keeping: {
          all: [
            unfinished,
            {
              field: 'assigned_to_2',
              test: { op: 'against', is: 'same', to: { person: 'name' } },
            },
          ],
        },
        when: 'any',
        order: [{ by: 'due_on' }],
        fields: ['due_on', 'vessel', 'priority'],
        place: { x: 9, y: 0, w: 3, h: 3 },
      },
      {
        kind: 'chart',
        id: 'by-vessel',
        title: 'Unfinished orders by vessel and priority',
        dataSet: ids.orders,
        mark: 'columns',
        measure: 'unfinished',
        by: { field: 'vessel' },
        split: 'priority',
        order: 'value',
        keeping: unfinished,
        behind: orderFields,
        place: { x: 0, y: 3, w: 7, h: 7 },
      },
      {
        kind: 'chart',
        id: 'opened',
        title: 'Opened, month by month',
        dataSet: ids.orders,
        mark: 'line',
        measure: 'count',
        by: { field: 'opened_at', unit: 'month' },
        order: 'label',
        behind: orderFields,
        place: { x: 7, y: 3, w: 5, h: 7 },
      },
      {
        kind: 'table',
        id: 'orders',
        title: 'Unfinished orders, longest due first',
        dataSet: ids.orders,
        keeping: unfinished,
        columns: [
          { field: 'title', width: 240 },
          { field: 'vessel' },
          { field: 'status' },
          { field: 'priority' },
          { field: 'due_on' },
          { field: 'assigned_to_2' },
          { field: 'estimate_hours' },
        ],
        order: [{ by: 'due_on' }],
        actions: ['done', 'defer', 'give', 'add'],
        inPlace: ['priority', 'due_on', 'estimate_hours'],
        pageSize: 12,
        held: 1,
        place: { x: 0, y: 10, w: 12, h: 15 },
      },
      {
        kind: 'record-cards',
        id: 'order-cards',
        title: 'The same orders as cards',
        dataSet: ids.orders,
        keeping: unfinished,
        fields: ['vessel', 'status', 'priority', 'due_on', 'assigned_to_2', 'estimate_hours'],
        order: [{ by: 'due_on' }],
        pageSize: 12,
        inStepWith: 'orders',
        place: { x: 0, y: 25, w: 8, h: 20 },
      },
      {
        kind: 'form',
        id: 'revise',
        title: 'Change the picked order',
        dataSet: ids.orders,
        about: 'picked',
        action: 'revise',
        place: { x: 8, y: 25, w: 4, h: 20 },
      },
    ],
  };
}
