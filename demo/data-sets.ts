import type { Measure } from '#core/ask/measure/schema.ts';
import type { Changes } from '#core/dataset/change/schema.ts';
import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable, type TableChoice } from '#core/dataset/from-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { lateMinutes } from './sailings.ts';

/* The data sets that ship with the demo. */

export interface DemoDataSet {
  readonly id: string;
  readonly name: string;
  readonly definition: DataSet;
}

const say = (dataSet: DataSet, labels: Record<string, Partial<Field>>, order: readonly string[]): DataSet => {
  const described = dataSet.fields.map((field) => ({ ...field, ...labels[field.name] }));
  const rank = (name: string): number => (order.includes(name) ? order.indexOf(name) : order.length);
  return { ...dataSet, fields: described.sort((a, b) => rank(a.name) - rank(b.name)) };
};

/** What counts as late. */
export const late = { field: 'delay_minutes', test: { op: 'above' as const, value: String(lateMinutes) } };
const left = { field: 'delay_minutes', test: { op: 'filled' as const } };

const sailingMeasures: Measure[] = [
  { name: 'count', label: 'sailings', calculation: { kind: 'count' } },
  {
    name: 'on_time',
    label: 'on-time rate',
    calculation: {
      kind: 'share',
      where: { field: 'delay_minutes', test: { op: 'atMost', value: String(lateMinutes) } },
    },
    where: left,
    format: { kind: 'percent', decimals: 1 },
    good: 'up',
    target: '0.90',
    bands: [
      { mark: { word: 'poor', tone: 'broken' } },
      { from: '0.8', mark: { word: 'below target', tone: 'slipping' } },
      { from: '0.9' },
    ],
  },
  { name: 'late', label: 'late sailings', calculation: { kind: 'count' }, where: late, good: 'down' },
  {
    name: 'cancelled',
    label: 'cancelled sailings',
    calculation: { kind: 'count' },
    where: { field: 'status', test: { op: 'is', values: ['cancelled'] } },
    good: 'down',
  },
  {
    name: 'passengers',
    label: 'passengers carried',
    calculation: { kind: 'sum', field: 'passengers' },
    good: 'up',
  },
  {
    name: 'fares',
    label: 'fares taken',
    calculation: { kind: 'sum', field: 'fares' },
    unit: 'crowns',
    format: { kind: 'number', decimals: 0 },
    good: 'up',
  },
  {
    name: 'average_delay',
    label: 'average delay',
    calculation: { kind: 'average', field: 'delay_minutes' },
    unit: 'min',
    format: { kind: 'number', decimals: 1 },
    good: 'down',
  },
  {
    name: 'median_delay',
    label: 'median delay',
    calculation: { kind: 'median', field: 'delay_minutes' },
    unit: 'min',
    good: 'down',
  },
];

const unfinished = { field: 'status', test: { op: 'isNot' as const, values: ['done'] } };

/** What may be done to work orders: from a table, from a record, and in their place. */
const orderChanges: Changes = {
  inPlace: ['title', 'priority', 'due_on', 'estimate_hours'],
  rules: [{ field: 'done_at', is: 'atLeast', than: 'opened_at' }],
  actions: [
    {
      name: 'done',
      label: 'Set done',
      tone: 'settled',
      way: 'update',
      where: unfinished,
      after: 'next',
      sets: [
        { field: 'status', to: { kind: 'value', value: 'done' } },
        { field: 'done_at', to: { kind: 'now' } },
      ],
    },
    {
      name: 'defer',
      label: 'Defer',
      way: 'update',
      where: unfinished,
      sets: [
        { field: 'status', to: { kind: 'value', value: 'deferred' } },
        { field: 'due_on', to: { kind: 'ask', required: true } },
        { field: 'deferred_because', to: { kind: 'ask' } },
      ],
    },
    {
      name: 'give',
      label: 'Give to',
      way: 'update',
      where: unfinished,
      sets: [{ field: 'assigned_to', to: { kind: 'ask' } }],
    },
    {
      name: 'revise',
      label: 'Save the order',
      way: 'update',
      where: unfinished,
      sets: [
        { field: 'title', to: { kind: 'ask', required: true } },
        { field: 'priority', to: { kind: 'ask', required: true } },
        { field: 'due_on', to: { kind: 'ask', required: true } },
        { field: 'assigned_to', to: { kind: 'ask' } },
        { field: 'estimate_hours', to: { kind: 'ask' } },
      ],
    },
    {
      name: 'add',
      label: 'Add an order',
      way: 'insert',
      sets: [
        { field: 'title', to: { kind: 'ask', required: true } },
        { field: 'vessel_id', to: { kind: 'ask', required: true } },
        { field: 'priority', to: { kind: 'ask', required: true } },
        { field: 'due_on', to: { kind: 'ask', required: true } },
        { field: 'status', to: { kind: 'value', value: 'open' } },
        { field: 'opened_at', to: { kind: 'now' } },
      ],
    },
  ],
};

export interface DemoIds {
  readonly source: string;
  readonly sailings: string;
  readonly incidents: string;
  readonly orders: string;
  readonly waiting: string;
}

function tableOf(tables: readonly FoundTable[], name: string): FoundTable {
  const found = tables.find((table) => table.name === name && table.schema === 'public');
  if (!found) throw new Error(`the demo has no table ${name}`);
  return found;
}

const all = (table: FoundTable, lookUps: TableChoice['lookUps']): TableChoice => ({
  columns: table.columns.map(({ name }) => name),
  lookUps,
});

export function demoDataSets(ids: DemoIds, tables: readonly FoundTable[]): DemoDataSet[] {
  const make = (name: string, lookUps: TableChoice['lookUps']): DataSet => {
    const table = tableOf(tables, name);
    return dataSetFromTable(ids.source, table, tables, all(table, lookUps));
  };
  const sailings = say(
    make('sailings', [
      { by: 'route_id', take: ['name'] },
      { by: 'vessel_id', take: ['name', 'picture', 'passengers'] },
      { by: 'master_id', take: ['name'] },
    ]),
    {
      id: { label: 'Number' },
      departs_at: { label: 'Departs', format: { kind: 'moment', style: 'short' }, group: 'The crossing' },
      arrives_at: { label: 'Arrives', format: { kind: 'moment', style: 'time' }, group: 'The crossing' },
      left_at: { label: 'Left', format: { kind: 'moment', style: 'time' }, group: 'The crossing' },
      landed_at: { label: 'Landed', format: { kind: 'moment', style: 'time' }, group: 'The crossing' },
      cause: { group: 'The crossing' },
      delay_minutes: {
        group: 'The crossing',
        label: 'Delay',
        unit: 'min',
        bands: [{}, { from: '30', mark: { word: 'very late', tone: 'broken' } }],
      },
      passengers: { group: 'On board' },
      vehicles: { group: 'On board' },
      fares: {
        label: 'Fares',
        unit: 'crowns',
        format: { kind: 'number', decimals: 2 },
        group: 'On board',
      },
      vessel_picture: { label: 'Picture', format: { kind: 'picture' } },
      vessel_passengers: { label: 'Places', hidden: true },
      status: {
        states: [
          { value: 'planned', word: 'Planned', tone: 'waiting' },
          { value: 'boarding', word: 'Boarding', tone: 'moving' },
          { value: 'under way', word: 'Under way', tone: 'moving' },
          { value: 'arrived', word: 'Arrived', tone: 'settled' },
          { value: 'late', word: 'Late', tone: 'slipping' },
          { value: 'cancelled', word: 'Cancelled', tone: 'broken' },
        ],
      },
    },
    [
      'reference',
      'route',
      'vessel',
      'departs_at',
      'status',
      'delay_minutes',
      'cause',
      'passengers',
      'vehicles',
      'fares',
      'left_at',
      'landed_at',
      'arrives_at',
      'master',
      'vessel_picture',
    ],
  );
  const incidents = say(
    make('incidents', [
      { by: 'sailing_id', take: ['reference'] },
      { by: 'reported_by', take: ['name'] },
    ]),
    {
      kind: { label: 'What' },
      reported_at: { label: 'Reported', format: { kind: 'moment', style: 'short' } },
      settled_at: { label: 'Settled', format: { kind: 'moment', style: 'short' } },
      reported_by_2: { label: 'Reported by' },
      severity: {
        states: [
          { value: 'minor', word: 'Minor', tone: 'settled' },
          { value: 'serious', word: 'Serious', tone: 'slipping' },
          { value: 'grave', word: 'Grave', tone: 'broken' },
        ],
      },
    },
    ['kind', 'severity', 'reported_at', 'note', 'settled_at', 'sailing'],
  );
  const orders = say(
    make('work_orders', [
      { by: 'vessel_id', take: ['name'] },
      { by: 'assigned_to', take: ['name'] },
    ]),
    {
      opened_at: { label: 'Opened', format: { kind: 'moment', style: 'short' }, group: 'Who and when' },
      due_on: { label: 'Due', group: 'Who and when' },
      deferred_because: { label: 'Deferred because', group: 'Who and when' },
      done_at: { label: 'Done', format: { kind: 'moment', style: 'short' }, group: 'Who and when' },
      vessel_id: { label: 'Vessel' },
      assigned_to: { label: 'Given to', group: 'Who and when' },
      assigned_to_2: { label: 'Given to', group: 'Who and when' },
      estimate_hours: { label: 'Estimate', unit: 'h', group: 'What it takes' },
      cost: { unit: 'crowns', format: { kind: 'number', decimals: 2 }, group: 'What it takes' },
      priority: {
        states: [
          { value: 'low', word: 'Low', tone: 'waiting' },
          { value: 'normal', word: 'Normal', tone: 'settled' },
          { value: 'high', word: 'High', tone: 'slipping' },
          { value: 'urgent', word: 'Urgent', tone: 'broken' },
        ],
      },
      status: {
        states: [
          { value: 'open', word: 'Open', tone: 'waiting' },
          { value: 'planned', word: 'Planned', tone: 'waiting' },
          { value: 'in hand', word: 'In hand', tone: 'moving' },
          { value: 'deferred', word: 'Deferred', tone: 'slipping' },
          { value: 'done', word: 'Done', tone: 'settled' },
        ],
      },
    },
    [
      'title',
      'vessel',
      'status',
      'priority',
      'due_on',
      'opened_at',
      'assigned_to_2',
      'estimate_hours',
      'cost',
      'deferred_because',
    ],
  );
  const overdue = {
    all: [
      { field: 'status', test: { op: 'isNot' as const, values: ['done'] } },
      { field: 'due_on', test: { op: 'during' as const, period: { kind: 'past' as const } } },
    ],
  };
  return [
    { id: ids.sailings, name: 'Sailings', definition: { ...sailings, measures: sailingMeasures } },
    { id: ids.incidents, name: 'Incidents', definition: { ...incidents, followUp: true } },
    {
      id: ids.orders,
      name: 'Work orders',
      definition: {
        ...orders,
        changes: orderChanges,
        followUp: true,
        measures: [
          { name: 'count', label: 'work orders', calculation: { kind: 'count' } },
          {
            name: 'unfinished',
            label: 'unfinished orders',
            calculation: { kind: 'count' },
            where: { field: 'status', test: { op: 'isNot', values: ['done'] } },
            good: 'down',
          },
          {
            name: 'overdue',
            label: 'overdue orders',
            calculation: { kind: 'count' },
            where: overdue,
            good: 'down',
          },
          {
            name: 'cost',
            label: 'cost of finished work',
            calculation: { kind: 'sum', field: 'cost' },
            unit: 'crowns',
            format: { kind: 'number', decimals: 2 },
          },
          { name: 'vessels', label: 'vessels', calculation: { kind: 'distinct', field: 'vessel' } },
        ],
      },
    },
    {
      id: ids.waiting,
      name: 'Incidents not settled, by crew',
      definition: {
        version: 2,
        source: ids.source,
        request: {
          kind: 'sql',
          text: `SELECT c.id, c.name, c.post, count(*) AS unsettled, min(i.reported_at) AS oldest\nFROM incidents AS i\nJOIN crew AS c ON c.id = i.reported_by\nWHERE i.settled_at IS NULL AND i.severity <> :leaving_out\nGROUP BY c.id, c.name, c.post`,
          columns: [
            { column: 'id', name: 'id', type: 'integer' },
            { column: 'name', name: 'name', type: 'text' },
            { column: 'post', name: 'post', type: 'text' },
            { column: 'unsettled', name: 'unsettled', type: 'integer' },
            { column: 'oldest', name: 'oldest', type: 'instant' },
          ],
        },
        inputs: [
          {
            name: 'leaving_out',
            type: 'text',
            label: 'severity to leave out',
            required: true,
            sample: 'minor',
          },
        ],
        fields: [
          { name: 'id', type: 'integer', origin: 'public.crew.id', hidden: true },
          { name: 'name', type: 'text', origin: 'public.crew.name' },
          { name: 'post', type: 'text', origin: 'public.crew.post' },
          { name: 'unsettled', type: 'integer', label: 'Not settled' },
          { name: 'oldest', type: 'instant' },
        ],
        key: 'id',
        title: 'name',
        noun: { one: 'person', many: 'people' },
        measures: [{ name: 'count', label: 'people', calculation: { kind: 'count' } }],
      },
    },
  ];
}
