import type { Context } from '#core/dashboard/flow/context.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';

/* A small dashboard of the ferry line, for tests. */

export const ids = {
  source: '5a1e0000-0000-4000-8000-000000000001',
  sailings: '5a1e0000-0000-4000-8000-000000000002',
  incidents: '5a1e0000-0000-4000-8000-000000000003',
};

/** A data set that is a table of a database, as it stands. */
export const tableDataSet = (
  table: string,
  one: string,
  fields: Field[],
  more: Partial<DataSet> = {},
): DataSet => ({
  version: 2,
  source: ids.source,
  request: {
    kind: 'table',
    schema: 'public',
    table,
    columns: fields.map(({ name, type }) => ({ column: name, name, type })),
    lookUps: [],
  },
  inputs: [],
  fields,
  key: 'id',
  noun: { one, many: `${one}s` },
  measures: [{ name: 'count', label: `${one}s`, calculation: { kind: 'count' } }],
  ...more,
});

export const sailings = tableDataSet('sailings', 'sailing', [
  { name: 'id', type: 'integer', origin: 'public.sailings.id' },
  { name: 'route', type: 'text', origin: 'public.routes.name' },
  { name: 'cause', type: 'text', origin: 'public.sailings.cause' },
  { name: 'delay', type: 'integer', origin: 'public.sailings.delay', unit: 'min' },
  { name: 'departs', type: 'instant', origin: 'public.sailings.departs' },
]);

export const incidents = tableDataSet('incidents', 'incident', [
  { name: 'id', type: 'integer', origin: 'public.incidents.id' },
  {
    name: 'sailing_id',
    type: 'integer',
    origin: 'public.incidents.sailing_id',
    refers: 'public.sailings.id',
  },
  { name: 'kind', type: 'text', origin: 'public.incidents.kind' },
]);

export const place = { x: 0, y: 0, w: 6, h: 4 };
const of = { dataSet: ids.sailings, place };

export const panes = {
  card: { kind: 'card', id: 'card', title: 'Sailings', ...of, measure: 'count', against: 'whole' },
  causes: {
    kind: 'chart',
    id: 'causes',
    title: 'By cause',
    ...of,
    mark: 'bars',
    measure: 'count',
    by: { field: 'cause' },
    order: 'value',
  },
  weeks: {
    kind: 'chart',
    id: 'weeks',
    title: 'By week',
    ...of,
    mark: 'columns',
    measure: 'count',
    by: { field: 'departs', unit: 'week' },
    order: 'label',
  },
  late: {
    kind: 'table',
    id: 'late',
    title: 'Late ones',
    ...of,
    columns: [{ field: 'cause' }, { field: 'delay' }],
    order: [],
    pageSize: 10,
  },
  sailing: { kind: 'detail', id: 'sailing', title: 'The sailing', ...of, fields: ['cause'] },
  incidents: {
    kind: 'table',
    id: 'incidents',
    title: 'Its incidents',
    dataSet: ids.incidents,
    place,
    waitsFor: 'public.sailings.id',
    columns: [{ field: 'kind' }],
    order: [],
    pageSize: 10,
  },
} satisfies Record<string, Pane>;

export const dashboard: Dashboard = {
  version: 4,
  title: 'Morning brief',
  scope: [
    { name: 'route', many: 'routes', offer: 'values', dataSet: ids.sailings, field: 'route' },
    {
      name: 'departing',
      many: 'dates',
      lead: 'departing',
      offer: 'dates',
      dataSet: ids.sailings,
      field: 'departs',
      initially: { op: 'during', period: { kind: 'last', count: 28, unit: 'day' } },
    },
    { name: 'delay', many: 'delay', lead: 'with', offer: 'number', dataSet: ids.sailings, field: 'delay' },
  ],
  panes: Object.values(panes),
};

export const context: Context = {
  dashboard,
  dataSets: new Map([
    [ids.sailings, sailings],
    [ids.incidents, incidents],
  ]),
  scope: emptyScope,
  clock: { now: new Date('2026-11-23T12:00:00Z'), zone: 'Europe/London' },
};

/** What a pane uses: of those here, records of one data set. */
export function onlyUse(pane: Pane): PaneUse {
  const [use] = usesOf(pane);
  if (!use) throw new Error(`“${pane.title}” uses no records`);
  return use;
}
