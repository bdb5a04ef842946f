import type { FoundTable } from '#core/dataset/found.ts';
import { lateMinutes } from '../sailings.ts';
import { filled, is, isNot, percent, type Shelf } from './shelf.ts';

/** Punctuality from sailings, and work orders with the names and the waiting that readers ask for. */
export async function shapeOperations(
  shelf: Shelf,
  operations: string,
  tables: readonly FoundTable[],
): Promise<void> {
  await shelf.plain(operations, tables, 'vessels', 'Vessels', (vessels) => ({
    ...vessels,
    checks: [
      { name: 'One vessel for each name', expects: { kind: 'unique', fields: ['name'] }, holds: false },
    ],
  }));
  await shelf.plain(operations, tables, 'crew', 'Crew', (crew) => ({
    ...crew,
    checks: [
      { name: 'One of each staff number', expects: { kind: 'unique', fields: ['staff_no'] }, holds: false },
      { name: 'Everybody has a post', expects: { kind: 'filled', field: 'post' }, holds: false },
    ],
  }));
  await shelf.plain(operations, tables, 'work_orders', 'Work orders as typed');

  await shelf.shaped('Sailings', {
    name: 'Punctuality',
    noun: { one: 'sailing', many: 'sailings' },
    key: 'id',
    title: 'reference',
    steps: [
      {
        kind: 'where',
        condition: { all: [isNot('status', 'planned', 'boarding', 'cancelled'), filled('delay_minutes')] },
      },
      { kind: 'derive', name: 'month', making: { kind: 'period', field: 'departs_at', unit: 'month' } },
      {
        kind: 'derive',
        name: 'lateness',
        making: {
          kind: 'bands',
          field: 'delay_minutes',
          bands: [
            { below: String(lateMinutes + 1), word: 'on time' },
            { below: '15', word: 'a little late' },
            { below: '45', word: 'late' },
          ],
          rest: 'very late',
        },
      },
      {
        kind: 'derive',
        name: 'cause',
        making: {
          kind: 'expression',
          text: `CASE WHEN delay_minutes > ${lateMinutes} THEN COALESCE(cause, 'not said') END`,
        },
      },
      { kind: 'derive', name: 'hour', making: { kind: 'expression', text: 'EXTRACT(HOUR FROM departs_at)' } },
      {
        kind: 'fields',
        keep: [
          'reference',
          'route',
          'vessel',
          'departs_at',
          'month',
          'hour',
          'delay_minutes',
          'lateness',
          'cause',
          'passengers',
          'fares',
          'id',
        ],
      },
    ],
    labels: {
      lateness: {
        states: [
          { value: 'on time', word: 'On time', tone: 'settled' },
          { value: 'a little late', word: 'A little late', tone: 'moving' },
          { value: 'late', word: 'Late', tone: 'slipping' },
          { value: 'very late', word: 'Very late', tone: 'broken' },
        ],
      },
      id: { hidden: true },
    },
    measures: [
      {
        name: 'on_time',
        label: 'on-time rate',
        calculation: { kind: 'share', where: is('lateness', 'on time') },
        format: percent,
        good: 'up',
        target: '0.90',
      },
      {
        name: 'delay',
        label: 'average delay',
        calculation: { kind: 'average', field: 'delay_minutes' },
        unit: 'min',
        format: { kind: 'number', decimals: 1 },
        good: 'down',
      },
      {
        name: 'felt_delay',
        label: 'delay as travellers felt it',
        calculation: { kind: 'weighted', field: 'delay_minutes', by: 'passengers' },
        unit: 'min',
        format: { kind: 'number', decimals: 1 },
        good: 'down',
      },
      {
        name: 'nine_in_ten',
        label: 'nine in ten are within',
        calculation: { kind: 'percentile', field: 'delay_minutes', at: 90 },
        unit: 'min',
        good: 'down',
      },
      {
        name: 'fare_each',
        label: 'fares per traveller',
        calculation: {
          kind: 'ratio',
          of: { kind: 'sum', field: 'fares' },
          to: { kind: 'sum', field: 'passengers' },
        },
        unit: 'crowns',
        format: { kind: 'number', decimals: 2 },
      },
    ],
    subsets: [
      { name: 'late', label: 'late sailings', where: isNot('lateness', 'on time') },
      { name: 'unexplained', label: 'late sailings without a cause', where: is('cause', 'not said') },
    ],
    checks: [
      { name: 'One record for each sailing', expects: { kind: 'unique', fields: ['id'] }, holds: false },
      { name: 'Every sailing has a route', expects: { kind: 'filled', field: 'route' }, holds: false },
      { name: 'Sailings go on', expects: { kind: 'fresh', field: 'departs_at', hours: 24 }, holds: false },
    ],
  });
  await shelf.shaped('Sailings', {
    name: 'Punctuality by route and month',
    noun: { one: 'month of a route', many: 'months of routes' },
    steps: [
      {
        kind: 'where',
        condition: { all: [isNot('status', 'planned', 'boarding', 'cancelled'), filled('delay_minutes')] },
      },
      {
        kind: 'summarise',
        by: [
          { field: 'route', as: 'route' },
          { field: 'departs_at', unit: 'month', as: 'month' },
        ],
        measures: [
          { name: 'sailings', calculation: { kind: 'count' } },
          {
            name: 'on time',
            calculation: {
              kind: 'share',
              where: { field: 'delay_minutes', test: { op: 'atMost', value: String(lateMinutes) } },
            },
          },
          { name: 'median delay', calculation: { kind: 'median', field: 'delay_minutes' } },
          { name: 'worst vessel delay', calculation: { kind: 'greatest', field: 'delay_minutes' } },
        ],
      },
      { kind: 'periods', field: 'month', unit: 'month', within: ['route'], zero: ['sailings'] },
      { kind: 'rank', as: 'place', order: [{ by: 'on time', descending: true }], within: ['month'] },
      {
        kind: 'running',
        as: 'against the month before',
        what: 'difference',
        field: 'on time',
        order: [{ by: 'month' }],
        within: ['route'],
      },
    ],
    labels: {
      'on time': { format: percent },
      'against the month before': { format: percent },
      'median delay': { unit: 'min' },
    },
    measures: [
      {
        name: 'best',
        label: 'best on-time rate',
        calculation: { kind: 'greatest', field: 'on time' },
        format: percent,
        good: 'up',
      },
    ],
    subsets: [
      {
        name: 'below',
        label: 'months below nine in ten',
        where: { field: 'on time', test: { op: 'below', value: '0.9' } },
      },
    ],
    checks: [
      {
        name: 'One record for each route and month',
        expects: { kind: 'unique', fields: ['route', 'month'] },
        holds: false,
      },
    ],
  });
  await shelf.shaped('Work orders as typed', {
    name: 'Work orders, how long they wait',
    noun: { one: 'work order', many: 'work orders' },
    key: 'id',
    title: 'title',
    steps: [
      {
        kind: 'lookUp',
        from: { dataSet: shelf.of('Vessels').id },
        on: [{ field: 'vessel_id', other: 'id' }],
        mode: 'one',
        take: [{ field: 'name', as: 'vessel' }],
        order: [],
      },
      {
        kind: 'lookUp',
        from: { dataSet: shelf.of('Crew').id },
        on: [{ field: 'assigned_to', other: 'id' }],
        mode: 'one',
        take: [
          { field: 'name', as: 'given to' },
          { field: 'post', as: 'post' },
        ],
        order: [],
      },
      { kind: 'type', field: 'estimate_hours', to: 'decimal', misfit: 'list' },
      {
        kind: 'derive',
        name: 'days waiting',
        making: {
          kind: 'expression',
          text: 'CASE WHEN done_at IS NULL THEN CURRENT_DATE - CAST(opened_at AS date) END',
        },
      },
      {
        kind: 'derive',
        name: 'age',
        making: {
          kind: 'bands',
          field: 'days waiting',
          bands: [
            { below: '7', word: 'under a week' },
            { below: '30', word: 'under a month' },
            { below: '90', word: 'under three months' },
          ],
          rest: 'three months and more',
        },
      },
      { kind: 'fill', field: 'given to', with: { kind: 'value', value: 'nobody' } },
    ],
    labels: {
      vessel_id: { hidden: true },
      assigned_to: { hidden: true },
      estimate_hours: { label: 'Estimate', unit: 'h' },
      'estimate_hours as written': { label: 'Estimate as written' },
      cost: { unit: 'crowns' },
    },
    measures: [
      {
        name: 'waiting',
        label: 'average days waiting',
        calculation: { kind: 'average', field: 'days waiting' },
        unit: 'days',
        format: { kind: 'number', decimals: 1 },
        good: 'down',
      },
      {
        name: 'oldest',
        label: 'longest wait',
        calculation: { kind: 'greatest', field: 'days waiting' },
        unit: 'days',
        good: 'down',
      },
      {
        name: 'estimated',
        label: 'hours estimated',
        calculation: { kind: 'sum', field: 'estimate_hours' },
        unit: 'h',
      },
    ],
    subsets: [
      { name: 'open', label: 'open work orders', where: isNot('status', 'done') },
      {
        name: 'nobody',
        label: 'open work orders given to nobody',
        where: { all: [isNot('status', 'done'), is('given to', 'nobody')] },
      },
    ],
    checks: [
      { name: 'Every order names a vessel', expects: { kind: 'filled', field: 'vessel' }, holds: false },
      {
        name: 'What is done has a cost',
        expects: { kind: 'all', where: { any: [isNot('status', 'done'), filled('cost')] } },
        holds: false,
      },
    ],
  });
}
