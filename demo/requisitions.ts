import type { Changes } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';

/* What the demo says of the requisitions of the stores, and what people may do to them. */

interface Said {
  readonly name: string;
  readonly noun: DataSet['noun'];
  readonly title: string;
  readonly labels: Readonly<Record<string, Partial<Field>>>;
  readonly measures?: DataSet['measures'];
  readonly changes: Changes;
}

const isOpen = { field: 'State', test: { op: 'is' as const, values: ['open'] } };

/** `lines`: the data set of what requisitions ask for. */
export const requisitionsSaid = (lines: string): Said => ({
  name: 'Requisitions',
  noun: { one: 'requisition', many: 'requisitions' },
  title: 'Number',
  labels: {
    Id: { hidden: true },
    DepotId: { label: 'Depot' },
    Number: { label: 'Requisition', format: { kind: 'id' } },
    State: {
      states: [
        { value: 'open', word: 'Open', tone: 'waiting' },
        { value: 'approved', word: 'Approved', tone: 'moving' },
        { value: 'delivered', word: 'Delivered', tone: 'settled' },
        { value: 'refused', word: 'Refused', tone: 'broken' },
      ],
    },
    RaisedOn: { label: 'Raised' },
    ChangedAt: { label: 'Changed' },
  },
  measures: [
    {
      name: 'open',
      label: 'open requisitions',
      calculation: { kind: 'count' },
      where: isOpen,
      good: 'down',
    },
  ],
  changes: {
    inPlace: ['Note'],
    actions: [
      {
        name: 'approve',
        label: 'Approve',
        tone: 'moving',
        way: 'update',
        where: isOpen,
        sets: [{ field: 'State', to: { kind: 'value', value: 'approved' } }],
      },
      {
        name: 'refuse',
        label: 'Refuse',
        tone: 'broken',
        way: 'update',
        where: isOpen,
        sets: [
          { field: 'State', to: { kind: 'value', value: 'refused' } },
          { field: 'Note', to: { kind: 'ask', required: true } },
        ],
      },
      {
        name: 'raise',
        label: 'Raise a requisition',
        after: 'open',
        way: 'insert',
        sets: [
          { field: 'DepotId', to: { kind: 'ask', required: true } },
          { field: 'Vessel', to: { kind: 'ask', required: true } },
          { field: 'Note', to: { kind: 'ask' } },
          { field: 'State', to: { kind: 'value', value: 'open' } },
        ],
        lines: { dataSet: lines, action: 'add', refers: 'RequisitionId', member: 'Lines' },
      },
    ],
  },
});

export const linesSaid: Said = {
  name: 'Requisition lines',
  noun: { one: 'line', many: 'lines' },
  title: 'Part',
  labels: {
    Id: { hidden: true },
    Part: { format: { kind: 'id' } },
    RequisitionId: { label: 'Requisition' },
    PartId: { label: 'Part' },
    UnitPrice: { label: 'Price', unit: 'crowns' },
  },
  measures: [{ name: 'asked', label: 'parts asked for', calculation: { kind: 'sum', field: 'Quantity' } }],
  changes: {
    inPlace: ['Quantity'],
    actions: [
      {
        name: 'add',
        label: 'Add a line',
        way: 'insert',
        sets: [
          { field: 'RequisitionId', to: { kind: 'ask', required: true } },
          { field: 'PartId', to: { kind: 'ask', required: true } },
          { field: 'Quantity', to: { kind: 'ask', required: true } },
          { field: 'UnitPrice', to: { kind: 'ask' } },
        ],
      },
      { name: 'remove', label: 'Remove', tone: 'broken', way: 'remove', sets: [] },
    ],
  },
};
