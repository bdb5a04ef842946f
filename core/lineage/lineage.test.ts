import { describe, expect, test } from 'vitest';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { lostNeeds, withoutLost } from '#core/dataset/lost.ts';
import { startOf, withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { freeStepId } from '#core/dataset/step/free-id.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { comesFrom, leadsTo } from './reach.ts';
import {
  dashboardFollowing,
  followingRename,
  usesOfDataSet,
  usesOfField,
  usesOfMeasure,
  withFieldRenamed,
} from './uses.ts';

const [routes, sailings, late] = ['1', '2', '3'].map((n) => `00000000-0000-4000-8000-00000000000${n}`) as [
  string,
  string,
  string,
];
const plain = (more: Partial<DataSet>): DataSet => ({
  version: 2,
  source: '00000000-0000-4000-8000-000000000009',
  request: { kind: 'upload', columns: [] },
  inputs: [],
  fields: [{ name: 'id', type: 'integer' }],
  noun: { one: 'record', many: 'records' },
  measures: [],
  ...more,
});
const lookUp: Step = {
  kind: 'lookUp',
  id: 'step-1',
  from: { dataSet: routes },
  on: [{ field: 'route_id', other: 'id' }],
  mode: 'one',
  take: [{ field: 'name', as: 'route' }],
  order: [],
};
const routeSet = plain({
  fields: [
    { name: 'id', type: 'integer' },
    { name: 'name', type: 'text', label: 'Route' },
  ],
  key: 'id',
  title: 'name',
});
const sailingSet = withOutcome(
  plain({
    start: [
      { name: 'id', type: 'integer' },
      { name: 'route_id', type: 'integer' },
      { name: 'delay', type: 'integer' },
    ],
    fields: [
      { name: 'id', type: 'integer' },
      { name: 'route_id', type: 'integer' },
      { name: 'delay', type: 'integer', label: 'Delay', unit: 'min' },
    ],
    steps: [lookUp],
    key: 'id',
    measures: [
      { name: 'delay', label: 'average delay', calculation: { kind: 'average', field: 'delay' } },
      { name: 'count', label: 'sailings', calculation: { kind: 'count' } },
    ],
    subsets: [
      { name: 'late', label: 'late sailings', where: { field: 'delay', test: { op: 'above', value: '5' } } },
    ],
    checks: [{ name: 'One of each', expects: { kind: 'unique', fields: ['id'] }, holds: false }],
  }),
  new Map([[routes, routeSet]]),
);
const lateSet = plain({
  request: { kind: 'of', dataSet: sailings, subset: 'late', columns: [] },
  fields: sailingSet.fields,
  start: sailingSet.fields,
  steps: [{ kind: 'where', id: 'step-1', condition: { field: 'delay', test: { op: 'filled' } } }],
});
const dataSets = [
  { id: routes, name: 'Routes', definition: routeSet },
  { id: sailings, name: 'Sailings', definition: sailingSet },
  { id: late, name: 'Late ones', definition: lateSet },
];
const world = new Map(dataSets.map(({ id, definition }) => [id, definition]));
const dashboard: Dashboard = {
  version: 4,
  title: 'Morning',
  scope: [{ name: 'delay', many: 'delays', offer: 'number', dataSet: sailings, field: 'delay' }],
  panes: [
    {
      kind: 'chart',
      id: 'chart',
      title: 'By route',
      dataSet: sailings,
      mark: 'bars',
      measure: 'delay',
      by: { field: 'route' },
      order: 'value',
      keeping: { none: [{ field: 'delay', test: { op: 'against', is: 'above', to: { field: 'id' } } }] },
      place: { x: 0, y: 0, w: 6, h: 4 },
    },
    {
      kind: 'table',
      id: 'table',
      title: '',
      dataSet: sailings,
      columns: [{ field: 'route' }],
      order: [{ by: 'delay', descending: true }],
      pageSize: 10,
      place: { x: 0, y: 4, w: 6, h: 4 },
    },
  ],
};
const dashboards = [{ id: 'd', dashboard }];
const at = (uses: readonly { at: string }[]): string[] => uses.map((use) => use.at);

describe('what depends on what', () => {
  test('is followed both ways, however far, and through circles once', () => {
    expect([...comesFrom(late, world)].sort()).toEqual([routes, sailings, late]);
    expect([...leadsTo(routes, world)].sort()).toEqual([routes, sailings, late]);
    expect([...leadsTo(late, world)]).toEqual([late]);
    const circle = new Map([
      ['a', plain({ request: { kind: 'of', dataSet: 'b', columns: [] } })],
      ['b', plain({ request: { kind: 'of', dataSet: 'a', columns: [] } })],
    ]);
    expect([...comesFrom('a', circle)].sort()).toEqual(['a', 'b']);
  });

  test('names every use of a field, and of nothing else', () => {
    expect(at(usesOfField(sailings, 'delay', dataSets, dashboards))).toEqual([
      'the measure “average delay”',
      'the subset “late sailings”',
      'step 1 of “Late ones”',
      'the reader filters of “Morning”, “delays”',
      '“By route” on “Morning”',
      '“untitled” on “Morning”',
    ]);
    expect(at(usesOfField(routes, 'name', dataSets, dashboards))).toEqual([
      'it names a record to readers',
      'step 1 of “Sailings”',
    ]);
    expect(usesOfField(routes, 'nothing', dataSets, dashboards)).toEqual([]);
  });

  test('names the panes of a measure and the uses of a data set', () => {
    expect(at(usesOfMeasure(sailings, 'delay', dashboards))).toEqual(['“By route” on “Morning”']);
    expect(usesOfMeasure(sailings, 'count', dashboards)).toEqual([]);
    expect(at(usesOfDataSet(sailings, dataSets, dashboards))).toEqual([
      'the data set “Late ones”',
      '“By route” on “Morning”',
      '“untitled” on “Morning”',
      'the reader filters of “Morning”, “delays”',
    ]);
    expect(usesOfDataSet(late, dataSets, dashboards)).toEqual([]);
  });
});

describe('a field that is renamed', () => {
  const renamed = withOutcome(withFieldRenamed(sailingSet, 'delay', 'minutes late', 'step-2'), world);

  test('has its name in all that its data set says, with what readers are told of it', () => {
    expect(renamed.fields.find(({ name }) => name === 'minutes late')).toMatchObject({
      label: 'Delay',
      unit: 'min',
    });
    expect(renamed.measures[0]?.calculation).toEqual({ kind: 'average', field: 'minutes late' });
    expect(renamed.subsets?.[0]?.where).toMatchObject({ field: 'minutes late' });
    expect(lostNeeds(renamed)).toEqual([]);
    expect(withFieldRenamed(sailingSet, 'id', 'number', 'step-2')).toMatchObject({
      key: 'number',
      checks: [{ expects: { fields: ['number'] } }],
    });
  });

  test('is followed by look-ups, by what is made of the data set, and by dashboards', () => {
    const followed = followingRename(sailingSet, routes, 'name', 'title');
    expect(followed.steps?.[0]).toMatchObject({ take: [{ field: 'title', as: 'route' }] });
    const after = withOutcome(
      followingRename(lateSet, sailings, 'delay', 'minutes late'),
      new Map([...world, [sailings, renamed]]),
    );
    expect(shape(startOf(after), after.steps ?? [], world).problems).toEqual([null, null]);
    expect(after.fields.map(({ name }) => name)).toContain('delay');
    const moved = dashboardFollowing(dashboard, sailings, 'delay', 'minutes late');
    expect(moved.scope[0]).toMatchObject({ field: 'minutes late' });
    expect(moved.panes[0]).toMatchObject({
      measure: 'delay',
      keeping: { none: [{ field: 'minutes late' }] },
    });
    expect(moved.panes[1]).toMatchObject({ order: [{ by: 'minutes late' }] });
    expect(dashboardFollowing(dashboard, sailings, 'id', 'number').panes[0]).toMatchObject({
      keeping: { none: [{ test: { to: { field: 'number' } } }] },
    });
    expect(dashboardFollowing(dashboard, routes, 'delay', 'x')).toEqual(dashboard);
  });

  test('gets a step whose id is free', () => {
    expect(freeStepId([])).toBe('step-1');
    expect(freeStepId([lookUp, { ...lookUp, id: 'step-3' }])).toBe('step-4');
  });
});

describe('what needs a field that has gone', () => {
  const gone = {
    ...sailingSet,
    fields: sailingSet.fields.filter(({ name }) => name !== 'delay' && name !== 'id'),
  };

  test('is named, a sentence each, and only that is left out', () => {
    expect(lostNeeds(gone)).toEqual([
      'The measure “average delay” needs the field “delay”, which is not there any more',
      'The subset “late sailings” needs the field “delay”, which is not there any more',
      'The check “One of each” needs the field “id”, which is not there any more',
    ]);
    const left = withoutLost(gone);
    expect(lostNeeds(left)).toEqual([]);
    expect(left.measures.map(({ name }) => name)).toEqual(['count']);
    expect(left).toMatchObject({ subsets: [], checks: [] });
    expect(left.key).toBeUndefined();
    expect(withoutLost(sailingSet)).toEqual(sailingSet);
  });
});
