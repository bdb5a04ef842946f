import { randomUUID } from 'node:crypto';
import { afterAll, afterEach, beforeAll, expect, test } from 'vitest';
import type { ChangeAnswer } from '#core/change/answer.ts';
import type { Values } from '#core/change/change.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { requisitions } from '#demo/dashboards/requisitions.ts';
import { addStores } from '#demo/services.ts';
import { storesUser } from '#demo/stand-in-access.ts';
import { type StandIns, startStandIns } from '#stand-ins/start.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { contextOf } from '../panes/context.ts';
import { closeClients } from '../sources/open.ts';
import { findBatch, historyOf, recordsOfBatch } from '../store/changes.ts';
import { findDataSets } from '../store/data-sets.ts';
import { database } from '../store/database.ts';
import { addDesk } from '../store/desks.ts';
import { addUser, personOf, signIn, type User } from '../store/people.ts';
import { changeBatches } from '../store/tables/changes.ts';
import { changesAsCsv } from './file.ts';
import { lookAt } from './look.ts';
import { type Sender, sendChange } from './send.ts';
import { settleChanges } from './settle.ts';
import { subjectOf } from './subject.ts';
import { undoChange } from './undo.ts';

/* Changes of a service's records, as a dashboard offers them: some may be made and others not. */

let installed: KeptTest;
let services: StandIns;
let ids: Awaited<ReturnType<typeof addStores>>;
let dataSets: ReadonlyMap<string, DataSet>;
let una: User;
const dashboardId = randomUUID();
const good = { kind: 'good' } as const;

beforeAll(async () => {
  process.env.SLATE_OUTGOING = '127.0.0.1';
  installed = await keptTest();
  const secrets = {
    tideKey: 'tide-key-0123456789',
    storesPassword: 'stores-password-0123',
    clientSecret: 'client-secret-0123456',
    intakeKey: 'intake-key-0123456789',
  };
  services = await startStandIns({ ...secrets, port: 0 });
  ids = await addStores({ ...secrets, port: services.port });
  dataSets = await findDataSets([ids.requisitions, ids.lines]);
  await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
  const user = await personOf((await signIn('una@skerry.example', 'low-water')) ?? '');
  if (!user) throw new Error('nobody signed in');
  una = user;
});
afterEach(() => services.mischief.clear());
afterAll(async () => {
  await closeClients();
  await services.stop();
  await installed.close();
});

const context = (search = ''): Context =>
  contextOf(
    {
      dashboard: requisitions(ids),
      dataSets,
      desk: { id: '', name: 'Skerry Sound', slug: 'skerry-sound', zone: 'Europe/London' },
    } as never,
    new URLSearchParams(search),
    new Date(),
    una,
  ).context;
const sender = (): Sender => ({ user: una, deskId: null, dashboardId, context: context() });
const open = async (): Promise<{ key: string; title: string }[]> =>
  (
    await lookAt(subjectOf('requisitions', { action: 'approve' }, context()), 'all', context())
  ).records.slice();
async function approve(keys: readonly string[], batch = randomUUID()): Promise<ChangeAnswer> {
  const subject = subjectOf('requisitions', { action: 'approve' }, context());
  const records = keys.map((key) => ({ key, saw: { State: 'open' } }));
  return sendChange(subject, { batch, records, values: {} }, sender());
}

test('records of a service are changed one by one, counted at once, and given back', async () => {
  const before = await open();
  const [first, second] = before.map(({ key }) => key) as [string, string];
  const look = await lookAt(
    subjectOf('requisitions', { action: 'approve' }, context()),
    [first, second],
    context(),
  );
  expect(look).toMatchObject({ oneByOne: true, leftOut: 0 });
  const done = await approve([first, second]);
  expect(done).toMatchObject({ state: 'done', words: 'Approve: 2 requisitions.', canUndo: true });
  // What was fetched before the change is not what is counted after it.
  expect(await open()).toHaveLength(before.length - 2);
  if (done.state !== 'done') throw new Error('it was not done');
  expect(await undoChange({ batch: randomUUID(), of: done.batch }, sender())).toMatchObject({
    state: 'done',
  });
  expect(await open()).toHaveLength(before.length);
});

test('of which one is not made, that one is told, tried again by itself, and left out of history and undo', async () => {
  const [first, second, third] = (await open()).slice(-3).map(({ key }) => key) as [string, string, string];
  const batch = randomUUID();
  // All three are read, the first is changed and read back, and the second is refused.
  services.mischief.tell('stores', good, good, good, good, good, { kind: 'status', status: 422 });
  const answer = await approve([first, second, third], batch);
  if (answer.state !== 'each') throw new Error(`it was ${JSON.stringify(answer)}`);
  expect(answer.words).toBe('Approve: 2 requisitions.');
  expect(answer.notMade).toMatchObject([{ isKnown: true, why: expect.stringContaining('422') }]);
  const [left] = answer.notMade;
  const place = JSON.stringify([dataSets.get(ids.requisitions)?.source, 'Skerry.Stores', 'Requisitions']);
  expect(await historyOf(place, left?.key ?? '', 10)).toEqual([]);
  // The same sent again is answered as it was, and not sent.
  expect(await approve([first, second, third], batch)).toMatchObject({
    state: 'each',
    notMade: [{ key: left?.key }],
  });
  expect(await approve([left?.key ?? ''])).toMatchObject({ state: 'done' });
  // The two that were made are given back, and not the one that was made by another change.
  const undone = await undoChange({ batch: randomUUID(), of: batch }, sender());
  expect(undone).toMatchObject({ state: 'done', words: expect.stringContaining('2 requisitions') });
});

test('all that was changed is a file, a line for each field, of whoever and whatever is looked for', async () => {
  const [{ key } = { key: '' }] = (await open()).slice(5);
  const desk = await addDesk({ slug: 'stores', name: 'Stores', zone: 'UTC' });
  const subject = subjectOf('requisitions', { action: 'refuse' }, context());
  const records = [{ key, saw: { State: 'open' } }];
  const done = await sendChange(
    subject,
    { batch: randomUUID(), records, values: { Note: '=too "much"' } },
    { ...sender(), deskId: desk.id },
  );
  expect(done).toMatchObject({ state: 'done' });
  const linesOf = async (find: string): Promise<string[]> => {
    let text = '';
    for await (const piece of changesAsCsv(desk.id, find)) text += piece;
    return text.trimEnd().split('\r\n');
  };
  const [head, ...lines] = await linesOf('');
  expect(head).toBe('At,By,Action,Pane,Record,Key,Field,Before,After,Outcome,Why');
  expect(lines).toHaveLength(2);
  const lineOf = (field: string): string => lines.find((line) => line.includes(`,${field},`)) ?? '';
  expect(lineOf('State')).toMatch(
    /^20.*Z,Una,Refuse,"Requisitions, latest first",RQ-\d+,\d+,State,open,refused,done,$/,
  );
  // A spreadsheet runs nothing of it.
  expect(lineOf('Note')).toContain(`"'=too ""much""",done,`);
  expect(await linesOf('nobody')).toHaveLength(1);
});

test('that was cut off in the middle is found out, record by record', async () => {
  const [first, second] = (await open()).slice(2, 4).map(({ key }) => key) as [string, string];
  const batch = randomUUID();
  services.mischief.tell('stores', good, good, good, good, { kind: 'status', status: 422 });
  await approve([first, second], batch);
  // As if nobody had noted the end.
  await database()
    .update(changeBatches)
    .set({ state: 'sending', at: new Date(Date.now() - 200_000) });
  // Whoever sends them may still be at it.
  await settleChanges(new Date());
  expect((await findBatch(batch))?.state).toBe('sending');
  await settleChanges(new Date(Date.now() + 600_000));
  expect((await findBatch(batch))?.state).toBe('done');
  const place = JSON.stringify([dataSets.get(ids.requisitions)?.source, 'Skerry.Stores', 'Requisitions']);
  const made = await Promise.all([first, second].map(async (key) => (await historyOf(place, key, 1)).length));
  expect(made.toSorted()).toEqual([0, 1]);
});

const raise = (lines: readonly Values[], batch = randomUUID()): Promise<ChangeAnswer> =>
  sendChange(
    subjectOf('raise', { action: 'raise' }, context()),
    { batch, records: [], values: { DepotId: '1', Vessel: 'Fulmar', Note: 'all at once' }, lines },
    sender(),
  );
const raised = async (): Promise<{ Id: number; Lines: number }[]> => {
  const headers = {
    authorization: `Basic ${Buffer.from(`${storesUser}:stores-password-0123`).toString('base64')}`,
  };
  const all = async (set: string): Promise<Record<string, unknown>[]> =>
    (await (await fetch(`${services.address}/stores/${set}&$top=500`, { headers })).json()).value;
  return Promise.all(
    (await all("Requisitions?$filter=Note eq 'all at once'")).map(async ({ Id }) => ({
      Id: Number(Id),
      Lines: (await all(`RequisitionLines?$filter=RequisitionId eq ${Id}`)).length,
    })),
  );
};

test('a record is added with its lines in one request, or not at all, and cannot be taken back in one', async () => {
  const whole = { PartId: '3', Quantity: '2', UnitPrice: null };
  expect(await raise([{ ...whole, Quantity: 'two' }])).toMatchObject({
    state: 'wrong',
    lines: [{ Quantity: expect.any(String) }],
  });
  // Only the service knows that a line is for one at least.
  expect(await raise([whole, { ...whole, Quantity: '0' }])).toMatchObject({
    state: 'failed',
    problem: { why: expect.stringContaining('one at least') },
  });
  expect(await raised()).toEqual([]);
  const batch = randomUUID();
  const done = await raise([whole, { ...whole, PartId: '4' }], batch);
  expect(done).toMatchObject({
    state: 'done',
    words: 'Raise a requisition: 1 requisition with 2 lines.',
    canUndo: false,
  });
  expect(await raise([whole, { ...whole, PartId: '4' }], batch)).toMatchObject({ state: 'done' });
  expect(await raised()).toMatchObject([{ Lines: 2 }]);
  await expect(undoChange({ batch: randomUUID(), of: batch }, sender())).rejects.toMatchObject({
    problem: { why: 'its source cannot undo several lines at once' },
  });
  // One without lines can be taken back as any other.
  expect(await raise([])).toMatchObject({
    state: 'done',
    words: 'Raise a requisition: 1 requisition.',
    canUndo: true,
  });
  // The service told their keys.
  const [line] = (await recordsOfBatch(batch)).filter(({ place }) => place?.includes('RequisitionLines'));
  expect(Number(line?.key)).toBeGreaterThan(720);
});

test('what is added starts with what is picked, and what may be chosen has names', async () => {
  const [{ key, title } = { key: '', title: '' }] = await open();
  const picked = context(`at=${encodeURIComponent(`requisitions.Id:${key}`)}`);
  const look = await lookAt(subjectOf('lines', { action: 'add' }, picked), [], picked);
  const [requisition, part] = look.fields;
  expect(requisition?.choices).toContainEqual({ value: key, words: title });
  expect(part?.choices?.length).toBe(10);
  // Two depots have one code, and are told apart.
  const depots = (await lookAt(subjectOf('raise', { action: 'raise' }, context()), [], context())).fields[0];
  expect(depots?.choices?.map(({ words }) => words).toSorted()).toEqual(['FNB', 'NRK (2)', 'NRK (4)', 'SKH']);
  expect(requisition?.value).toBe(key);
});
