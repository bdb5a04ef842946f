import { randomUUID } from 'node:crypto';
import { setMaxListeners } from 'node:events';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { type Asker, everybody } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { asksOnly } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { writeScope } from '#core/dashboard/scope/address.ts';
import { emptyScope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { morningBrief } from '#demo/dashboards/morning-brief.ts';
import { zone } from '#demo/line.ts';
import { place } from '#testing/skerry.ts';
import { soundFixture } from '../../testing/sound.ts';
import { exportList } from '../export/export.ts';
import { contextOf } from './context.ts';
import { openBehind } from './drill.ts';
import { findRecords } from './find.ts';
import { openRecord } from './opened-record.ts';
import { runPane } from './run.ts';
import { countScope } from './shown.ts';
import { clauseValues, fieldValues } from './values.ts';

/*
 * Who may see only some records gets, by every way there is, what they would get if the others did not exist. So each question is asked
 * under the rule first; then the others are deleted, and each is asked again without it.
 */

const now = new Date('2026-11-23T12:00:00Z');
const rule: Condition = {
  field: 'vessel',
  test: { op: 'against', is: 'same', to: { theirs: 'Vessel' } },
};
const ownSignal = new AbortController().signal;
// Many ask with it at once, as with that of a request.
setMaxListeners(0, ownSignal);

let sound: Awaited<ReturnType<typeof soundFixture>>;
let dashboard: Dashboard;
/** Made of the sailings, and one that looks them up. */
const [perDay, orders] = [randomUUID(), randomUUID()];
let theirs: { vessels: string[]; others: { id: string; reference: string } };

/** The definitions, with the rule on the sailings or without. */
function dataSets(rowRule?: Condition): Map<string, DataSet> {
  const all = new Map(sound.dataSets);
  const sailings = all.get(sound.ids.sailings);
  const work = all.get(sound.ids.orders);
  if (!sailings || !work) throw new Error('the fixture has no sailings');
  all.set(sound.ids.sailings, { ...sailings, ...(rowRule ? { rowRule } : {}) });
  all.set(perDay, {
    version: 2,
    source: sailings.source,
    request: { kind: 'of', dataSet: sound.ids.sailings, columns: [] },
    inputs: [],
    start: sailings.fields,
    fields: [
      { name: 'status', type: 'text' },
      { name: 'sailings', type: 'integer' },
    ],
    noun: { one: 'status', many: 'statuses' },
    measures: [{ name: 'all', label: 'all', calculation: { kind: 'sum', field: 'sailings' } }],
    steps: [
      {
        kind: 'summarise',
        id: 's',
        by: [{ field: 'status', as: 'status' }],
        measures: [{ name: 'sailings', calculation: { kind: 'count' } }],
      },
    ],
  } as DataSet);
  all.set(orders, {
    ...work,
    start: work.fields,
    fields: [...work.fields, { name: 'crossings', type: 'integer' }],
    steps: [
      {
        kind: 'lookUp',
        id: 'l',
        from: { dataSet: sound.ids.sailings },
        on: [{ field: 'vessel_id', other: 'vessel_id' }],
        mode: 'count',
        take: [],
        order: [],
        as: 'crossings',
      },
    ],
  });
  return all;
}

const of = (rowRule: Condition | undefined, person: Asker | undefined, search = '') =>
  contextOf(
    { dashboard, dataSets: dataSets(rowRule), desk: { id: '', name: '', slug: '', zone } } as never,
    new URLSearchParams(search),
    now,
    person as Asker,
  ).context;

beforeAll(async () => {
  sound = await soundFixture(now);
  const brief = morningBrief(sound.ids);
  const shared = { place, dataSet: sound.ids.sailings };
  dashboard = {
    ...brief,
    panes: [
      // Incidents go with their sailings below, which the rule of the sailings says nothing about.
      ...brief.panes.filter(
        (pane) => 'dataSet' in pane && pane.dataSet === sound.ids.sailings && !asksOnly(pane),
      ),
      {
        ...shared,
        id: 'cross',
        title: 'Crossings',
        kind: 'crosstab',
        down: [{ field: 'route' }, { field: 'vessel' }],
        across: [{ field: 'status' }],
        measures: ['count', 'fares'],
        cells: 'value',
        order: 'label',
      },
      {
        ...shared,
        id: 'list',
        title: 'Every sailing',
        kind: 'table',
        columns: [{ field: 'reference' }, { field: 'vessel' }, { field: 'passengers', foot: 'sum' }],
        order: [],
        pageSize: 50,
      },
      {
        place,
        dataSet: perDay,
        id: 'derived',
        title: 'By status',
        kind: 'table',
        columns: [{ field: 'status' }, { field: 'sailings', foot: 'sum' }],
        order: [],
        pageSize: 50,
      },
      {
        place,
        dataSet: orders,
        id: 'looked-up',
        title: 'Orders',
        kind: 'table',
        columns: [{ field: 'title' }, { field: 'crossings', foot: 'sum' }],
        order: [{ by: 'title' }],
        pageSize: 50,
      },
    ] as Pane[],
  };
  const { rows } = await sound.client.query(
    'SELECT v.name FROM vessels v JOIN sailings s ON s.vessel_id = v.id GROUP BY v.name ORDER BY v.name LIMIT 2',
  );
  const vessels = rows.map(({ name }) => String(name));
  const others = await sound.client.query(
    'SELECT s.id::text, s.reference FROM sailings s JOIN vessels v ON v.id = s.vessel_id WHERE NOT v.name = ANY($1) ORDER BY s.departs_at DESC LIMIT 1',
    [vessels],
  );
  theirs = { vessels, others: others.rows[0] };
});
afterAll(() => sound.end());

const person = (values: readonly string[]): Asker => ({
  name: 'Ingrid Sclater',
  email: 'ingrid@skerry.example',
  attributes: { vessel: values },
});

/** What every way to the records answers, as text. */
async function everyWay(rowRule: Condition | undefined, asker: Asker): Promise<Record<string, unknown>> {
  const answers: Record<string, unknown> = {};
  const searches: Record<string, string> = {
    plain: '',
    'a pick': 'at=sailings.status:arrived',
    'a test of one’s own': writeScope({
      ...emptyScope,
      own: [[[{ dataSet: 'sailings', field: 'passengers', test: { op: 'atLeast', value: '20' } }]]],
    }).toString(),
    'an order and a page': 'list.order=-passengers&list.page=2',
    'a search': 'list.find=SK',
  };
  for (const [name, search] of Object.entries(searches)) {
    const context = of(rowRule, asker, search);
    for (const pane of context.dashboard.panes) {
      const result = await runPane({ pane, context });
      if (result.state === 'failed') throw new Error(`${pane.id}: ${result.problem.why}`);
      answers[`${name}: ${pane.id}`] = result.state === 'ready' ? result.body : result;
    }
    answers[`${name}: count`] = await countScope(context);
  }
  const context = of(rowRule, asker);
  answers.record = (await openRecord({ pane: 'list', key: theirs.others.id }, context)).detail.record;
  answers.find = await findRecords(theirs.others.reference, context);
  answers.values = await fieldValues('sailings.vessel', '', context);
  for (const { name, offer } of dashboard.scope.filter(({ dataSet }) => dataSet === sound.ids.sailings))
    if (offer !== 'mine') answers[`clause ${name}`] = await clauseValues(name, '', context);
  const chart = context.dashboard.panes.find(({ kind }) => kind === 'chart');
  if (!chart) throw new Error('there is no chart');
  answers.behind = (await openBehind({ pane: 'cross', values: ['', ''] }, { page: 1 }, context)).table;
  for (const id of ['list', 'derived', 'looked-up']) {
    const pane = context.dashboard.panes.find((each) => each.id === id) as Pane;
    const file = await exportList(pane, context, 'ndjson', ownSignal);
    answers[`file ${id}`] = (await file.text()).split('\n').sort();
  }
  // Answers say when they were worked out, and how long that took.
  return JSON.parse(JSON.stringify(answers).replaceAll(/"(trueAt|took)":("[^"]*"|[\d.]+)/g, '"$1":0'));
}

describe('a rule about who sees which records', () => {
  test('without what it asks for, or without anybody, there are none', async () => {
    for (const asker of [person([]), { name: 'x', email: 'x' }, undefined]) {
      const context = of(rule, asker);
      for (const id of ['list', 'derived']) {
        const pane = context.dashboard.panes.find((each) => each.id === id) as Pane;
        const result = await runPane({ pane, context });
        expect(result.state === 'ready' && (result.body as { total: string }).total).toBe('0');
      }
    }
  });

  test('is no matter to whoever builds', async () => {
    const list = dashboard.panes.find(({ id }) => id === 'list') as Pane;
    const context = of(rule, everybody);
    const result = await runPane({ pane: list, context });
    const without = await runPane({ pane: list, context: of(undefined, everybody) });
    expect(result.state === 'ready' && result.body).toEqual(without.state === 'ready' && without.body);
  });

  test('that names a field which is gone shows nothing and says so', async () => {
    const gone: Condition = { field: 'skipper', test: { op: 'filled' } };
    const context = of(gone, person(['x']));
    const list = context.dashboard.panes.find(({ id }) => id === 'list') as Pane;
    const result = await runPane({ pane: list, context });
    expect(result.state === 'failed' && result.problem.why).toBe(
      'the rule about them names “skipper”, which is no longer there',
    );
  });

  test('leaves, by every way, what there would be without the others’ records', async () => {
    const ruled = await everyWay(rule, person(theirs.vessels.map((name) => name.toUpperCase())));
    expect(ruled.record).toBeNull();
    expect(ruled.find).toEqual([]);
    await sound.client.query('SET session_replication_role = replica');
    const { rowCount } = await sound.client.query(
      'DELETE FROM sailings s USING vessels v WHERE v.id = s.vessel_id AND NOT v.name = ANY($1)',
      [theirs.vessels],
    );
    expect(rowCount).toBeGreaterThan(1000);
    const without = await everyWay(undefined, everybody);
    for (const [way, answer] of Object.entries(without)) expect(ruled[way], way).toEqual(answer);
    expect(Object.keys(ruled)).toEqual(Object.keys(without));
  });
});
