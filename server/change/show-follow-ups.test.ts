import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { type Asker, everybody } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import { followUpData, isFollowUpsOf } from '#core/change/follow-up-data.ts';
import { recordPlace } from '#core/change/place.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { relationWith, unsetInputs } from '#core/plan/relation.ts';
import { dashboard } from '#testing/skerry.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { runPlan } from '../records/run.ts';
import { addDashboard } from '../store/dashboards.ts';
import {
  addDataSet,
  allDataSets,
  findDataSet,
  removeDataSet,
  saveDataSet,
  worldOf,
} from '../store/data-sets.ts';
import { addDesk } from '../store/desks.ts';
import { addFollowUp, followedUp, type NewNote } from '../store/follow-ups.ts';
import type { User } from '../store/people.ts';
import { joinPlaces, placeOfRecords } from '../store/record-place.ts';
import { showFollowUps, showsFollowUps } from './show-follow-ups.ts';
import { tellOfFollowUp } from './tell.ts';

/* What people noted of records stands beside them, at once. */

let installed: KeptTest;
let by: User;
const [orders, dashboardId, other] = [randomUUID(), randomUUID(), randomUUID()];
let desks: string[] = [];

beforeAll(async () => {
  installed = await keptTest();
  await installed.gates.query(`
    CREATE TABLE orders (id bigint PRIMARY KEY, what text NOT NULL);
    INSERT INTO orders SELECT n, 'order ' || n FROM generate_series(1, 40) AS n`);
  by = { id: installed.author, name: 'Magnus' } as User;
  const columns = [
    { column: 'id', name: 'id', type: 'integer' as const },
    { column: 'what', name: 'what', type: 'text' as const },
  ];
  const definition: DataSet = {
    version: 2,
    source: installed.source,
    request: { kind: 'table', schema: 'public', table: 'orders', columns, lookUps: [] },
    inputs: [],
    fields: columns.map(({ name, type }) => ({ name, type })),
    key: 'id',
    title: 'what',
    noun: { one: 'order', many: 'orders' },
    measures: [],
    followUp: true,
  };
  await addDataSet({ id: orders, name: 'Orders', definition, by: by.id });
  desks = [];
  for (const [slug, id] of [
    ['skerry', dashboardId],
    ['norrick', other],
  ] as const) {
    const desk = await addDesk({ slug, name: slug, zone: 'Europe/London' });
    desks.push(desk.id);
    await addDashboard({ id, deskId: desk.id, slug: 'board', draft: dashboard, by: null });
  }
});
afterAll(() => installed.close());

async function noteOf(key: string, more: Partial<NewNote> = {}): Promise<void> {
  const found = await findDataSet(orders);
  if (!found) throw new Error('no data set');
  await addFollowUp({
    deskId: desks[0] ?? '',
    dashboardId,
    dataSetId: orders,
    place: recordPlace(orders, found.definition),
    key,
    pane: 'list',
    title: `order ${key}`,
    noun: 'order',
    by,
    note: 'Rang the yard',
    state: 'waiting',
    due: '2031-01-15',
    givenTo: null,
    ...more,
  });
  await tellOfFollowUp(orders);
}

/** The records of the data set as panes ask for them, by key. */
async function records(
  fields: readonly string[],
  person: Asker = everybody,
  id: string = orders,
): Promise<Map<string, unknown[]>> {
  const found = await findDataSet(id);
  if (!found) throw new Error('no data set');
  const { definition } = found;
  const planning = {
    world: await worldOf(definition),
    clock: { now: new Date(), zone: 'Europe/London' },
    person,
  };
  const key = definition.key ?? '';
  const plan: RecordsPlan = {
    kind: 'records',
    from: relationWith(definition, id, unsetInputs(definition), planning),
    zone: 'Europe/London',
    where: { all: [] },
    fields: [key, ...fields],
    order: [{ by: key }],
    offset: 0,
    limit: 100,
  };
  const answer = await runPlan(plan, { doing: 'testing' });
  return new Map(answer.records.map(([first, ...rest]) => [String(first), rest]));
}

test('one step puts what was noted beside each record, and only once', async () => {
  expect(await showFollowUps({ id: orders, revision: 1 }, by)).toEqual({ state: 'saved', revision: 2 });
  const stored = await findDataSet(orders);
  expect(stored?.definition.fields.map(({ name }) => name)).toEqual([
    'id',
    'what',
    'follow_up_state',
    'follow_up_due',
    'follow_up_given_to',
    'touched_at',
    'touched_by',
    'follow_up_notes',
  ]);
  expect(stored && (await showsFollowUps(orders, stored.definition))).toBe(true);
  expect(await showFollowUps({ id: orders, revision: 2 }, by)).toEqual({
    state: 'refused',
    why: ['they are among its fields already'],
  });
});

test('a record is as it was noted last, at once, and the others stay blank', async () => {
  expect((await records(['follow_up_state', 'follow_up_notes'])).get('7')).toEqual([null, null]);
  await noteOf('7');
  const columns = ['follow_up_state', 'follow_up_due', 'touched_by', 'follow_up_notes'];
  expect((await records(columns)).get('7')).toEqual(['waiting', '2031-01-15', 'Magnus', '1']);
  await noteOf('7', { state: 'settled', due: null, note: 'They came' });
  const now = await records(columns);
  expect(now.get('7')).toEqual(['settled', null, 'Magnus', '2']);
  expect(now.get('8')).toEqual([null, null, null, null]);
  expect(now.size).toBe(40);
});

test('noted on two desks, a record is still one, as it was said last', async () => {
  await noteOf('9', { state: 'open' });
  await noteOf('9', { state: 'settled', deskId: desks[1] ?? '', dashboardId: other, due: null });
  const now = await records(['follow_up_state']);
  expect(now.size).toBe(40);
  expect(now.get('9')).toEqual(['settled']);
});

test('who may see only some records learns nothing of what was noted of the others', async () => {
  const stored = await findDataSet(orders);
  if (!stored) throw new Error('no data set');
  const noted = (await allDataSets()).find(({ definition }) => isFollowUpsOf(definition, orders));
  const rowRule: Condition = { field: 'what', test: { op: 'against', is: 'same', to: { theirs: 'Order' } } };
  await saveDataSet({ ...stored, definition: { ...stored.definition, rowRule }, by: by.id });
  const una: Asker = { name: 'Una', email: 'una@skerry.example', attributes: { Order: ['order 9'] } };
  const alone = await keysOf(noted?.id ?? '', una);
  expect(alone).toEqual(['9']);
  expect(await keysOf(orders, una)).toEqual(['9']);
  expect(await keysOf(noted?.id ?? '', everybody)).toEqual(['7', '9']);
  const after = await records(['follow_up_state'], una);
  expect(after.get('9')).toEqual(['settled']);
  await saveDataSet({ ...stored, revision: stored.revision + 1, by: by.id });
});

/** The keys that somebody gets of a data set, in their order. */
async function keysOf(id: string, person: Asker): Promise<string[]> {
  return [...(await records([], person, id)).keys()];
}

test('records of a data set that is made of another are followed up as those of that one, what was noted before too', async () => {
  const urgent = randomUUID();
  const found = await findDataSet(orders);
  if (!found) throw new Error('no data set');
  const { request: _, steps: __, start: ___, ...rest } = found.definition;
  const definition: DataSet = { ...rest, request: { kind: 'of', dataSet: orders, columns: [] } };
  await addDataSet({ id: urgent, name: 'Urgent orders', definition, by: by.id });
  expect(await placeOfRecords(urgent, definition)).toBe(await placeOfRecords(orders, found.definition));

  // What stood apart until now is put with the rest, unless the record has something there already.
  const apart = recordPlace(urgent, definition);
  expect(apart).not.toBe(await placeOfRecords(orders, found.definition));
  await noteOf('31', { dataSetId: urgent, place: apart });
  await noteOf('32');
  await noteOf('32', { dataSetId: urgent, place: apart, state: 'settled' });
  await joinPlaces();
  await joinPlaces();
  const noted = new Map((await followedUp(orders, 100)).map(({ record, state }) => [record, state]));
  expect([noted.get('31'), noted.get('32')]).toEqual(['waiting', 'waiting']);
  expect((await followedUp(urgent, 100)).length).toBe(noted.size);

  // One that is of something else by its key is not.
  const perNote: DataSet = { ...definition, key: 'what' };
  expect(await placeOfRecords(urgent, perNote)).toBe(recordPlace(urgent, perNote));
});

test('what no key identifies has no follow-ups, and without its data set they say so', async () => {
  const stored = await findDataSet(orders);
  if (!stored) throw new Error('no data set');
  const { key: _, ...keyless } = stored.definition;
  expect(followUpData(installed.source, orders, keyless)).toBeNull();
  await removeDataSet(orders);
  await expect(followedUp(orders, 10)).rejects.toThrow('has been removed');
});
