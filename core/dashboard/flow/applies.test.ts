import { describe, expect, test } from 'vitest';
import { emptyScope, type Scope } from '#core/dashboard/scope/state.ts';
import { context, dashboard, ids, incidents, onlyUse, panes, sailings } from '#testing/skerry.ts';
import { appliedTo, relationOf, waitsFor } from './applies.ts';
import { dataSetOf, testOf } from './context.ts';

const at = (scope: Partial<Scope>) => ({ ...context, scope: { ...emptyScope, ...scope } });
const from = (
  scope: Partial<Scope>,
  pane = panes.late as (typeof dashboard.panes)[number],
  dataSet = sailings,
) => appliedTo(onlyUse(pane), dataSet, at(scope)).map((each) => each.from);

describe('what narrows a pane', () => {
  test('is said in order: the data set, the analyst, the clauses, the reader, the picks', () => {
    const keeping = { field: 'cause', test: { op: 'filled' as const } };
    const pane = { ...panes.late, keeping };
    const dataSet = { ...sailings, keeping };
    const scope: Partial<Scope> = {
      clauses: { route: { op: 'is', values: ['Norrick'] } },
      own: [[[{ dataSet: 'sailings', field: 'cause', test: { op: 'contains', text: 'fog' } }]]],
      focus: [{ dataSet: 'sailings', field: 'cause', value: 'weather' }],
    };
    expect(from(scope, pane, dataSet)).toEqual(['dataSet', 'pane', 'clause', 'clause', 'own', 'focus']);
  });

  test('is the initial test of a clause until the reader takes it off', () => {
    expect(from({})).toEqual(['clause']);
    expect(from({ clauses: { departing: null } })).toEqual([]);
  });

  test('is nothing for a clause that was set to no value', () => {
    expect(from({ clauses: { departing: null, route: { op: 'is', values: [] } } })).toEqual([]);
  });

  test('is a group of the reader’s own only where all of its fields are found', () => {
    const both = [
      { dataSet: 'sailings', field: 'cause', test: { op: 'blank' as const } },
      { dataSet: 'incidents', field: 'kind', test: { op: 'blank' as const } },
    ];
    expect(from({ clauses: { departing: null }, own: [[both]] })).toEqual([]);
    expect(from({ clauses: { departing: null }, own: [both.map((test) => [test])] })).toEqual([]);
    expect(from({ clauses: { departing: null }, own: [[both.slice(0, 1)]] })).toEqual(['own']);
  });

  test('is no clause of another source, even with fields of the same name', () => {
    const elsewhere = { ...sailings, source: '5a1e0000-0000-4000-8000-00000000000f' };
    expect(from({ clauses: { route: { op: 'is', values: ['x'] } } }, panes.late, elsewhere)).toEqual([]);
  });

  test('of a picked period is half-open in the desk’s zone', () => {
    const focus = [{ dataSet: 'sailings', field: 'departs', unit: 'day' as const, value: '2026-10-25' }];
    const [applied] = appliedTo(onlyUse(panes.late), sailings, at({ clauses: { departing: null }, focus }));
    expect(applied?.filter).toEqual({
      field: 'departs',
      test: { op: 'within', from: '2026-10-24T23:00:00.000Z', to: '2026-10-26T00:00:00.000Z' },
    });
  });

  test('of a picked blank keeps the blanks', () => {
    const focus = [{ dataSet: 'sailings', field: 'cause', value: null }];
    const [applied] = appliedTo(onlyUse(panes.late), sailings, at({ clauses: { departing: null }, focus }));
    expect(applied?.filter).toEqual({ field: 'cause', test: { op: 'blank' } });
  });

  test('never is the scope for a detail: it shows the record that was picked, wherever it lies', () => {
    const focus = [{ dataSet: 'sailings', field: 'id', value: '7' }];
    expect(from({ clauses: { route: { op: 'is', values: ['Norrick'] } }, focus }, panes.sailing)).toEqual([
      'focus',
    ]);
  });
});

describe('what a pane waits for', () => {
  test('is a record: a picked period or blank does not stand for one', () => {
    const of = (focus: Scope['focus']) => waitsFor(onlyUse(panes.incidents), incidents, at({ focus }));
    expect(of([])).toBe('public.sailings.id');
    expect(of([{ dataSet: 'sailings', field: 'id', value: null }])).toBe('public.sailings.id');
    expect(of([{ dataSet: 'sailings', field: 'id', value: '7' }])).toBeNull();
  });
});

describe('an input', () => {
  const input = { name: 'route', type: 'text' as const, required: true, refers: 'public.routes.name' };
  const withInput = { ...sailings, inputs: [input] };
  const value = (scope: Partial<Scope>) => relationOf(withInput, at(scope)).relation.inputs.route?.value;

  test('is supplied by the clause of its name when that holds one value', () => {
    expect(value({ clauses: { route: { op: 'is', values: ['Norrick'] } } })).toBe('Norrick');
    expect(value({ clauses: { route: { op: 'is', values: ['Norrick', 'Holm'] } } })).toBeNull();
    expect(value({})).toBeNull();
  });

  test('is supplied by what is being looked at before any clause', () => {
    const focus = [{ dataSet: 'sailings', field: 'route', value: 'Lantern Point' }];
    expect(value({ focus, clauses: { route: { op: 'is', values: ['Norrick'] } } })).toBe('Lantern Point');
  });

  test('that is required and has no value is named by its label', () => {
    expect(relationOf({ ...withInput, inputs: [{ ...input, label: 'a route' }] }, at({})).missing).toEqual({
      label: 'a route',
      refers: 'public.routes.name',
    });
    expect(relationOf({ ...withInput, inputs: [{ ...input, required: false }] }, at({})).missing).toBeNull();
  });
});

test('a data set that is not on the dashboard has no short name', () => {
  expect(dataSetOf('sailings', context)).toBe(sailings);
  expect(dataSetOf('ships', context)).toBeNull();
  expect(dataSetOf('sailings', { dashboard, dataSets: new Map([[ids.incidents, incidents]]) })).toBeNull();
});

test('a clause’s test is the reader’s, then the initial one, then none', () => {
  const [route, departing] = dashboard.scope;
  if (!route || !departing) throw new Error('no clauses');
  expect(testOf(route, emptyScope)).toBeNull();
  expect(testOf(departing, emptyScope)).toEqual(departing.initially);
  expect(testOf(departing, { ...emptyScope, clauses: { departing: null } })).toBeNull();
});
