import { describe, expect, test } from 'vitest';
import type { TracePane } from '#core/dashboard/pane/kinds/trace/schema.ts';
import { context, ids, panes } from '#testing/skerry.ts';
import { ask } from './ask.ts';
import { casesOf, inCase } from './cases.ts';
import { checkFlow } from './check.ts';
import { readsOf } from './reads-of.ts';

/* A pane that shows what is of one case. */

const lane = (name: string, dataSet: string, of: string) => ({
  name,
  dataSet,
  case: of,
  at: 'departs',
  fields: [],
});
const trace: TracePane = {
  kind: 'trace',
  id: 'trace',
  title: 'Trace',
  about: { meaning: 'public.sailings.id', noun: 'sailing' },
  lanes: [lane('Sailings', ids.sailings, 'id'), lane('Incidents', ids.incidents, 'sailing_id')],
  expects: [],
  span: 15,
  place: { x: 0, y: 0, w: 12, h: 12 },
};
const dashboard = { ...context.dashboard, panes: [panes.late, trace] };
const wheres = (more: Partial<typeof context.scope>) => {
  const question = ask(trace, { ...context, dashboard, scope: { ...context.scope, ...more } });
  if (question.state !== 'asking') throw new Error('waits');
  return Object.values(question.first).map((one) => 'plan' in one && one.plan.where);
};
const focus = [{ dataSet: 'sailings', field: 'id', value: '7' }];

describe('what is of one case', () => {
  test('asks nothing while there is no case, and never waits, since one can be typed', () => {
    expect(wheres({ focus: [] })).toEqual([]);
    expect(checkFlow({ ...dashboard, panes: [trace] }, context.dataSets)).toEqual([]);
  });

  test('is narrowed in every lane to the case that is picked, and by nothing else that a reader chooses', () => {
    const cause = { dataSet: 'sailings', field: 'cause', value: 'fog' };
    expect(wheres({ focus: [...focus, cause] })).toEqual([
      { field: 'id', test: { op: 'same', value: '7' } },
      { field: 'sailing_id', test: { op: 'same', value: '7' } },
    ]);
  });

  test('is of the case that is typed, whatever is picked', () => {
    const typed = { field: 'id', test: { op: 'is', values: ['9'] } };
    expect(wheres({ focus, views: { trace: { case: [' 9 '] } } })[0]).toEqual(typed);
  });

  test('names those that may have been meant where nothing is known of the one that is typed', () => {
    const byCause: TracePane = {
      ...trace,
      about: { meaning: 'cause', noun: 'cause' },
      lanes: [lane('Sailings', ids.sailings, 'cause')],
    };
    const of = { ...context, dashboard: { ...dashboard, panes: [byCause] } };
    const question = ask(byCause, { ...of, scope: { ...of.scope, views: { trace: { case: ['fo'] } } } });
    if (question.state !== 'asking' || !question.after) throw new Error('waits');
    const none = { records: { '0': [] }, counts: {} };
    expect(question.after(none).ask).toMatchObject({
      'near 0': {
        plan: { where: { field: 'cause', test: { op: 'contains', text: 'fo' } }, by: [{ field: 'cause' }] },
      },
    });
    const found = {
      records: {
        '0': [],
        'near 0': [
          ['fog', '3'],
          ['foul tide', '1'],
        ],
      },
      counts: {},
    };
    expect(question.shape(found)).toMatchObject({ lines: [], near: ['fog', 'foul tide'] });
    // Where something is known nothing else is named, and numbers have no parts.
    expect(question.after({ records: { '0': [['2026-11-01', 'fog']] }, counts: {} }).ask).toEqual({});
    const numbers = ask(trace, {
      ...context,
      dashboard,
      scope: { ...context.scope, views: { trace: { case: ['9'] } } },
    });
    if (numbers.state !== 'asking' || !numbers.after) throw new Error('waits');
    expect(numbers.after({ records: {}, counts: {} }).ask).toEqual({});
  });

  test('is of a record that is opened, or of what that is of, whatever is picked or typed', () => {
    const incidents = context.dataSets.get(ids.incidents);
    const sailings = context.dataSets.get(ids.sailings);
    if (!incidents || !sailings) throw new Error('no such data sets');
    const shown = (names: string[], record: (string | null)[]) => ({
      fields: names.map((name) => ({ name, label: name, type: 'text' as const })),
      record,
    });
    const [own] = casesOf(shown(['id', 'cause'], ['7', 'fog']), sailings, dashboard);
    expect(own).toMatchObject({ pane: { id: 'trace' }, meaning: 'public.sailings.id', value: '7' });
    const [of] = casesOf(shown(['id', 'sailing_id'], ['31', '7']), incidents, dashboard);
    expect(of).toMatchObject({ meaning: 'public.sailings.id', value: '7' });
    // What a record does not show, or has no value of, is none.
    expect(casesOf(shown(['id'], ['31']), incidents, dashboard)).toEqual([]);
    expect(casesOf(shown(['sailing_id'], [null]), incidents, dashboard)).toEqual([]);
    if (!of) throw new Error('no case');
    const elsewhere = { focus: [{ ...focus[0], value: '9' }], views: { trace: { case: ['8'] } } };
    const scope = { ...context.scope, ...elsewhere } as typeof context.scope;
    const question = ask(trace, inCase({ ...context, dashboard, scope }, of));
    if (question.state !== 'asking') throw new Error('waits');
    expect(Object.values(question.first).map((one) => 'plan' in one && one.plan.where)).toEqual([
      { field: 'id', test: { op: 'same', value: '7' } },
      { field: 'sailing_id', test: { op: 'same', value: '7' } },
    ]);
  });

  test('reads picks of that meaning, and no clause', () => {
    const { clauses, focus: paths } = readsOf({ dashboard, dataSets: context.dataSets }).trace ?? {};
    expect(clauses).toEqual([]);
    expect(paths).toContain('sailings.id');
    expect(paths).not.toContain('sailings.cause');
  });
});
