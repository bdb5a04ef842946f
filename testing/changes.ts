import type { Context } from '#core/dashboard/flow/context.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';

/** A table of notes whose records are added and marked by actions. */
export const noted = (source: string): DataSet => ({
  version: 2,
  source,
  request: {
    kind: 'table',
    schema: 'public',
    table: 'notes',
    columns: [
      { column: 'id', name: 'id', type: 'integer', filled: true },
      { column: 'note', name: 'note', type: 'text' },
    ],
    lookUps: [],
  },
  inputs: [],
  fields: [
    { name: 'id', type: 'integer' },
    { name: 'note', type: 'text' },
  ],
  key: 'id',
  title: 'note',
  noun: { one: 'note', many: 'notes' },
  measures: [],
  changes: {
    inPlace: [],
    actions: [
      { name: 'add', label: 'Add', way: 'insert', sets: [{ field: 'note', to: { kind: 'ask' } }] },
      { name: 'mark', label: 'Mark', way: 'update', sets: [{ field: 'note', to: { kind: 'ask' } }] },
    ],
  },
});

/** A dashboard with one table of them, as somebody looks at it. */
export const changeContext = (
  dataSet: string,
  dataSets: Context['dataSets'],
  person: { readonly name: string; readonly email: string },
): Context => ({
  dashboard: {
    version: 3,
    title: 'Notes',
    scope: [],
    panes: [
      {
        kind: 'table',
        id: 'list',
        title: 'Notes',
        dataSet,
        columns: [{ field: 'note' }],
        order: [],
        pageSize: 10,
        actions: ['add', 'mark'],
        place: { x: 0, y: 0, w: 6, h: 6 },
      },
    ],
  },
  dataSets,
  scope: emptyScope,
  clock: { now: new Date('2026-11-23T12:00:00Z'), zone: 'UTC' },
  person,
});
