import { describe, expect, test } from 'vitest';
import type { Focus, Scope } from '#core/dashboard/scope/state.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import { context, dashboard, ids, incidents, onlyUse, panes, sailings } from '#testing/skerry.ts';
import { ask } from './ask.ts';
import { checkFlow } from './check.ts';
import { shortNames } from './context.ts';
import { counterpart } from './counterpart.ts';
import { effectOf } from './reach.ts';
import { paneKey } from './reads.ts';
import { readsOf, readsOfUses } from './reads-of.ts';
import { vocabularyOf } from './vocabulary.ts';

const sailing: Focus = { dataSet: 'sailings', field: 'id', value: '20418' };
const weather: Focus = { dataSet: 'sailings', field: 'cause', value: 'weather' };
const week: Focus = { dataSet: 'sailings', field: 'departs', unit: 'week', value: '2026-11-16' };
const at = (focus: Focus[], clauses: Scope['clauses'] = {}): Scope => ({ ...emptyScope, clauses, focus });
const reads = readsOf(context);
const touched = (before: Scope, after: Scope): string[] =>
  Object.entries(reads)
    .flatMap(([pane, each]) => (paneKey(pane, each, before) === paneKey(pane, each, after) ? [] : [pane]))
    .sort();

describe('what a change touches', () => {
  test('a picked sailing fills its detail and its incidents, and leaves the rest alone', () => {
    expect(touched(emptyScope, at([sailing]))).toEqual(['incidents', 'sailing']);
  });

  test('a picked cause narrows the other panes of the data set, not the chart it was picked in', () => {
    expect(touched(emptyScope, at([weather]))).toEqual(['card', 'late', 'sailing', 'weeks']);
  });

  test('a picked week narrows the others, not the chart by week', () => {
    expect(touched(emptyScope, at([week]))).toEqual(['card', 'causes', 'late', 'sailing']);
  });

  test('a clause touches the panes that have its field, and not the incidents, which lack it', () => {
    expect(touched(emptyScope, at([], { route: { op: 'is', values: ['Norrick'] } }))).toEqual([
      'card',
      'causes',
      'late',
      'weeks',
    ]);
  });

  test('turning a table’s page touches that table only', () => {
    expect(touched(emptyScope, { ...emptyScope, views: { late: { page: ['2'] } } })).toEqual(['late']);
    expect(touched(emptyScope, { ...emptyScope, views: { late: { show: ['delay'] } } })).toEqual([]);
  });

  test('a pane of several uses reads what any of them reads, and only marks what narrows none', () => {
    const mark = 'sailings.departs@week';
    expect(readsOfUses([onlyUse(panes.weeks)], context).marksOnly).toContain(mark);
    const both = readsOfUses([onlyUse(panes.weeks), onlyUse(panes.causes)], context);
    expect(both.marksOnly).not.toContain(mark);
    expect(both.focus).toContain('sailings.departs');
    const { dataSets, followsPicks } = readsOfUses([onlyUse(panes.late), onlyUse(panes.incidents)], context);
    expect([dataSets, followsPicks]).toEqual([[ids.sailings, ids.incidents], false]);
  });

  test('a pane that uses no records reads nothing', () => {
    const { dataSets, clauses, own, focus, followsPicks } = readsOfUses([], context);
    expect([dataSets, clauses, own, focus, followsPicks]).toEqual([[], [], [], [], false]);
  });

  test('agrees with the plans: a pane is asked again exactly when its plan differs', () => {
    for (const after of [
      at([sailing]),
      at([weather]),
      at([week]),
      at([], { delay: { op: 'atLeast', value: '15' } }),
    ]) {
      const plan = (scope: Scope, pane: (typeof dashboard.panes)[number]) =>
        JSON.stringify(ask(pane, { ...context, scope }));
      const differing = dashboard.panes
        .filter((pane) => plan(emptyScope, pane) !== plan(after, pane))
        .map(({ id }) => id);
      // Touching more than differs costs a question; touching less would show what is no longer true.
      for (const id of differing) expect(touched(emptyScope, after)).toContain(id);
    }
  });
});

describe('panes follow by what they read', () => {
  test('an incident’s sailing_id is found as the counterpart of a sailing’s id, without wiring', () => {
    expect(counterpart('id', sailings, incidents)).toBe('sailing_id');
    expect(counterpart('cause', sailings, incidents)).toBeNull();
  });

  test('fields of another source never are counterparts, whatever their names', () => {
    expect(
      counterpart('id', sailings, { ...incidents, source: '5a1e0000-0000-4000-8000-00000000000f' }),
    ).toBeNull();
  });

  test('fields of different sources are counterparts when one word says that they identify the same', () => {
    const referring = (dataSet: typeof sailings, field: string, refers: string, source = dataSet.source) => ({
      ...dataSet,
      source,
      fields: dataSet.fields.map((each) => (each.name === field ? { ...each, refers } : each)),
    });
    const elsewhere = '5a1e0000-0000-4000-8000-00000000000f';
    const scans = referring(incidents, 'sailing_id', 'sailing', elsewhere);
    expect(counterpart('id', referring(sailings, 'id', 'sailing'), scans)).toBe('sailing_id');
    expect(counterpart('id', referring(sailings, 'id', 'crossing'), scans)).toBeNull();
  });

  test('a picked record marks the table it was picked in', () => {
    expect(effectOf(sailing, sailings, onlyUse(panes.late), sailings)).toEqual({
      kind: 'marks',
      field: 'id',
    });
    expect(effectOf(sailing, sailings, onlyUse(panes.incidents), incidents)).toEqual({
      kind: 'narrows',
      field: 'sailing_id',
    });
  });

  test('nothing picked says what to choose, and is no failure', () => {
    const waiting = { state: 'waiting', choose: 'sailing', from: ['Late ones'] };
    expect(ask(panes.sailing, context)).toEqual(waiting);
    expect(ask(panes.incidents, context)).toEqual(waiting);
  });

  test('something picked asks for exactly its records', () => {
    const question = ask(panes.incidents, { ...context, scope: at([sailing]) });
    expect(question.state === 'asking' && question.list?.plan.where).toEqual({
      field: 'sailing_id',
      test: { op: 'same', value: '20418' },
    });
  });

  test('the vocabulary knows that incidents follow the sailing', () => {
    expect(vocabularyOf(context).dataSets.incidents?.follows).toEqual(['sailings.id']);
    expect(vocabularyOf(context).dataSets.sailings?.follows).toEqual([]);
  });
});

describe('editing', () => {
  test('refuses two tables that wait for each other, naming both', () => {
    const first = { ...panes.late, id: 'a', title: 'First', waitsFor: 'public.incidents.id' };
    const second = { ...panes.incidents, id: 'b', title: 'Second' };
    const [problem] = checkFlow({ ...dashboard, panes: [first, second] }, context.dataSets);
    expect(problem?.panes).toEqual(['a', 'b']);
    expect(problem?.why).toContain('“First” and “Second” wait for each other');
  });

  test('says when nothing on the page lets a reader choose what a pane waits for', () => {
    expect(checkFlow({ ...dashboard, panes: [panes.incidents] }, context.dataSets)[0]?.why).toContain(
      'no table on this dashboard lets a reader choose one',
    );
  });

  test('finds nothing wrong with three levels, each waiting for the one above', () => {
    expect(checkFlow(dashboard, context.dataSets)).toEqual([]);
  });
});

test('short names are unique even for data sets of one noun', () => {
  const twin = '5a1e0000-0000-4000-8000-000000000009';
  const two = { ...dashboard, panes: [...dashboard.panes, { ...panes.card, id: 'twin', dataSet: twin }] };
  const names = shortNames(two, new Map([...context.dataSets, [twin, { ...sailings }]]));
  expect([...names.values()]).toEqual(['sailings', 'incidents', 'sailings-2']);
});

test('a required input without a value asks for it, and a sample never stands in', () => {
  const withInput = {
    ...sailings,
    inputs: [{ name: 'berth', type: 'text' as const, required: true, sample: 'SAMPLE' }],
  };
  const dataSets = new Map([[ids.sailings, withInput]]);
  expect(ask(panes.late, { ...context, dataSets })).toEqual({ state: 'waiting', choose: 'berth', from: [] });
  const optional = {
    ...withInput,
    inputs: [{ ...withInput.inputs[0], name: 'berth', type: 'text' as const, required: false }],
  };
  const question = ask(panes.late, { ...context, dataSets: new Map([[ids.sailings, optional]]) });
  expect(question.state === 'asking' && question.list?.plan.from.inputs.berth?.value).toBeNull();
  expect(JSON.stringify(question.state === 'asking' && question.first)).not.toContain('SAMPLE');
});
