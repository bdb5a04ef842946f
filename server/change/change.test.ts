import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { ChangeAnswer } from '#core/change/answer.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { vesselUpkeep } from '#demo/dashboards/vessel-upkeep.ts';
import { zone } from '#demo/line.ts';
import { soundFixture } from '../../testing/sound.ts';
import { listen } from '../live/listen.ts';
import { contextOf } from '../panes/context.ts';
import { openBehind } from '../panes/drill.ts';
import { openRecord } from '../panes/opened-record.ts';
import { beginBatch, endBatch, findBatch, historyOf, markBatch } from '../store/changes.ts';
import { noticedIds } from '../store/data-changed.ts';
import { addDataSet } from '../store/data-sets.ts';
import { database } from '../store/database.ts';
import { addUser, personOf, signIn, type User } from '../store/people.ts';
import { setChanger } from '../store/sources.ts';
import { changeBatches } from '../store/tables/changes.ts';
import { lookAt } from './look.ts';
import { type Sender, sendChange } from './send.ts';
import { settleChanges } from './settle.ts';
import { subjectOf } from './subject.ts';
import { undoChange } from './undo.ts';

const now = new Date('2026-11-23T12:00:00Z');
let sound: Awaited<ReturnType<typeof soundFixture>>;
let dashboard: Dashboard;
let dataSets: Map<string, DataSet>;
let una: User;
let magnus: User;
const dashboardId = randomUUID();

async function person(name: string): Promise<User> {
  const email = `${name.toLowerCase()}@skerry.example`;
  await addUser({ email, name, password: 'low-water' });
  const user = await personOf((await signIn(email, 'low-water')) ?? '');
  if (!user) throw new Error('nobody signed in');
  return user;
}

beforeAll(async () => {
  sound = await soundFixture(now);
  dashboard = vesselUpkeep(sound.ids);
  dataSets = new Map(sound.dataSets);
  una = await person('Una');
  magnus = await person('Magnus');
});
beforeEach(async () => {
  await setChanger(sound.ids.source, { user: sound.address.user, secret: sound.address.password });
  await sound.client.query(`UPDATE work_orders SET status = 'open', done_at = NULL, due_on = '2026-11-01', priority = 'normal' WHERE id < 7011;
    UPDATE work_orders SET status = 'done', done_at = '2026-11-02T00:00:00Z' WHERE id IN (7009, 7010)`);
});
afterAll(() => sound.end());

const context = (search = ''): Context =>
  contextOf(
    { dashboard, dataSets, desk: { id: '', name: 'Skerry Sound', slug: 'skerry-sound', zone } } as never,
    new URLSearchParams(search),
    now,
    una,
  ).context;
const sender = (user = una): Sender => ({ user, deskId: null, dashboardId, context: context() });
const keys = (...ids: number[]): string[] => ids.map(String);
const look = (action: string, which: readonly string[] | 'all', search = '') =>
  lookAt(subjectOf('orders', { action }, context(search)), which, context(search));
interface How {
  values?: Record<string, string | null>;
  user?: User;
  batch?: string;
  saw?: Record<string, string | null>;
}
async function send(action: string, ids: readonly string[], how: How = {}): Promise<ChangeAnswer> {
  const { values = {}, user = una, batch = randomUUID(), saw } = how;
  const found = await look(action, ids);
  return sendChange(
    subjectOf('orders', { action }, context()),
    {
      batch,
      records: found.records.map((each) => ({ key: each.key, saw: { ...each.saw, ...saw } })),
      values,
    },
    sender(user),
  );
}
const orders = async (...ids: number[]): Promise<Record<string, string | null>[]> =>
  (
    await sound.client.query(
      `SELECT id::text, status, priority, due_on::text, done_at IS NOT NULL AS done FROM work_orders WHERE id = ANY($1) ORDER BY id`,
      [ids],
    )
  ).rows;

describe('an action', () => {
  test('says what it would do, leaving out what it is not offered for, and does it to all of them or to none', async () => {
    const found = await look('done', keys(7001, 7002, 7009));
    expect(found).toMatchObject({ label: 'Set done', leftOut: 1 });
    expect(found.records.map(({ key }) => key).sort()).toEqual(['7001', '7002']);
    expect(found.sentence).toBe('On 2 work orders, status becomes “Done” and done becomes this moment.');
    const done = await send('done', keys(7001, 7002));
    expect(done).toMatchObject({ state: 'done', words: 'Set done: 2 work orders.', canUndo: true });
    expect(await orders(7001, 7002)).toMatchObject([
      { status: 'done', done: true },
      { status: 'done', done: true },
    ]);
  });

  test('for people of some groups is offered to them and to those who build, and refused to others', () => {
    const before = dataSets.get(sound.ids.orders);
    if (!before?.changes) throw new Error('no orders');
    const actions = before.changes.actions.map((each) =>
      each.name === 'done' ? { ...each, groups: ['Upkeep yard'] } : each,
    );
    dataSets.set(sound.ids.orders, { ...before, changes: { ...before.changes, actions } });
    const asked = (groups: string[], seesAll = false) =>
      subjectOf(
        'orders',
        { action: 'done' },
        { ...context(), person: { name: '', email: '', attributes: { groups }, seesAll } },
      );
    expect(asked(['Deck crew', 'Upkeep yard']).action.name).toBe('done');
    expect(asked([], true).action.name).toBe('done');
    expect(() => asked(['Deck crew'])).toThrow('not offered here');
    const { person: _, ...nobody } = context();
    expect(() => subjectOf('orders', { action: 'done' }, nobody)).toThrow('not offered here');
    dataSets.set(sound.ids.orders, before);
  });

  test('breaks no rule between fields: where one record would, none is changed, and it is said which', async () => {
    const before = dataSets.get(sound.ids.orders);
    if (!before) throw new Error('no orders');
    const rules = [{ field: 'done_at', is: 'atLeast' as const, than: 'opened_at' }];
    const { actions = [], inPlace = [] } = before.changes ?? {};
    dataSets.set(sound.ids.orders, { ...before, changes: { ...before.changes, actions, inPlace, rules } });
    await sound.client.query(`UPDATE work_orders SET opened_at = '2026-12-01T00:00:00Z' WHERE id = 7002`);
    try {
      const found = await look('done', keys(7001, 7002));
      expect(found.rules.map(({ words }) => words)).toEqual(['Done must not be before opened']);
      // The table does not show when one was opened, so the page is not told; the server compares it all the same.
      expect(found.records.map(({ beside }) => beside)).toEqual([{}, {}]);
      const refused = await send('done', keys(7001, 7002));
      expect(refused).toMatchObject({
        state: 'wrong',
        wrong: {
          done_at: expect.stringContaining('Done must not be before opened, which it would not be for'),
        },
      });
      expect(await orders(7001, 7002)).toMatchObject([{ status: 'open' }, { status: 'open' }]);
      expect(await send('done', keys(7001))).toMatchObject({ state: 'done' });
    } finally {
      await sound.client.query(`UPDATE work_orders SET opened_at = '2026-10-01T00:00:00Z' WHERE id = 7002`);
      dataSets.set(sound.ids.orders, before);
    }
  });

  test('of all that the page shows is of exactly those, under the scope', async () => {
    const one = await sound.client.query(
      `SELECT v.name, count(*)::int AS n FROM work_orders o JOIN vessels v ON v.id = o.vessel_id WHERE status <> 'done' GROUP BY 1 ORDER BY 2 LIMIT 1`,
    );
    const { name, n } = one.rows[0];
    const search = `vessel=${encodeURIComponent(name)}`;
    expect(context(search).scope.clauses.vessel).toBeTruthy();
    expect((await look('done', 'all', search)).records).toHaveLength(n);
  });

  test('asks for what it needs by the names of what can be chosen, and says what is wrong before anything is sent', async () => {
    const found = await look('give', keys(7003));
    expect(found.fields[0]?.choices?.length).toBeGreaterThan(10);
    expect(found.fields[0]?.choices?.[0]?.words).toMatch(/[A-Z]/);
    const wrong = await send('defer', keys(7003), { values: { due_on: 'soon' } });
    expect(wrong).toEqual({ state: 'wrong', wrong: { due_on: '“soon” is not a date such as 2026-11-23' } });
    expect(await send('defer', keys(7003))).toMatchObject({
      state: 'wrong',
      wrong: { due_on: 'it is needed' },
    });
    expect((await orders(7003))[0]).toMatchObject({ status: 'open' });
  });

  test('that crosses what somebody else did meanwhile shows both, and whoever has seen that may do it all the same', async () => {
    const seen = await look('defer', keys(7004));
    await sound.client.query(`UPDATE work_orders SET status = 'in hand' WHERE id = 7004`);
    const subject = subjectOf('orders', { action: 'defer' }, context());
    const records = seen.records.map(({ key, saw }) => ({ key, saw }));
    const values = { due_on: '2027-01-15' };
    const crossed = await sendChange(subject, { batch: randomUUID(), records, values }, sender());
    expect(crossed).toMatchObject({
      state: 'conflict',
      conflicts: [{ title: expect.any(String), fields: [{ label: 'Status', saw: 'Open', is: 'In hand' }] }],
    });
    expect((await orders(7004))[0]).toMatchObject({ status: 'in hand', due_on: '2026-11-01' });
    if (crossed.state !== 'conflict') throw new Error('no conflict');
    const now = crossed.conflicts.map(({ key, is }) => ({ key, saw: is ?? {} }));
    const over = await sendChange(subject, { batch: randomUUID(), records: now, values }, sender());
    expect(over).toMatchObject({ state: 'done' });
    expect((await orders(7004))[0]).toMatchObject({ status: 'deferred', due_on: '2027-01-15' });
  });

  test('of records that it is not offered for any more changes none of them', async () => {
    const subject = subjectOf('orders', { action: 'done' }, context());
    const records = keys(7005, 7009).map((key) => ({ key, saw: { status: 'open', done_at: null } }));
    const sent = sendChange(subject, { batch: randomUUID(), records, values: {} }, sender());
    await expect(sent).rejects.toThrow('it is not offered for 1 of these 2 work orders now');
    expect((await orders(7005))[0]).toMatchObject({ status: 'open' });
  });

  test('that is sent twice under one name is done once, and its second answer is that of the first', async () => {
    const batch = randomUUID();
    const values = { title: 'Mend the bilge pump', vessel_id: '1', priority: 'high', due_on: '2026-12-01' };
    const subject = subjectOf('orders', { action: 'add' }, context());
    const once = () => sendChange(subject, { batch, records: [], values }, sender());
    const [first, second] = await Promise.all([once(), once()]);
    expect([first?.state, second?.state]).toContain('done');
    expect(await once()).toMatchObject({ state: 'done', batch });
    const { rows } = await sound.client.query(
      `SELECT count(*)::int AS n FROM work_orders WHERE title = 'Mend the bilge pump'`,
    );
    expect(rows[0].n).toBe(1);
    // Somebody else's name for a change is nobody's to learn from.
    const stolen = await sendChange(subject, { batch, records: [], values }, sender(magnus));
    expect(stolen).toMatchObject({ state: 'failed' });
  });

  test('that is not offered by the pane, or of a field that is not, is refused whoever asks', () => {
    expect(() => subjectOf('orders', { action: 'burn' }, context())).toThrow('not offered here');
    expect(() => subjectOf('orders', { field: 'title' }, context())).toThrow('not offered here');
    expect(() => subjectOf('order-cards', { action: 'done' }, context())).toThrow('not offered here');
    expect(() => subjectOf('gone', { action: 'done' }, context())).toThrow('not offered here');
  });

  test('by a role that may only read changes nothing and says so', async () => {
    await sound.client.query(
      `CREATE ROLE only_reads LOGIN PASSWORD 'x'; GRANT SELECT ON work_orders TO only_reads`,
    );
    await setChanger(sound.ids.source, { user: 'only_reads', secret: 'x' });
    expect(await send('done', keys(7006))).toMatchObject({
      state: 'failed',
      problem: { why: expect.stringContaining('permission denied') },
    });
    await setChanger(sound.ids.source, null);
    await expect(send('done', keys(7006))).rejects.toThrow('it has no role for that');
    expect((await orders(7006))[0]).toMatchObject({ status: 'open' });
  });
});

test('a field is changed in its place, from what the person saw', async () => {
  const subject = subjectOf('orders', { field: 'priority' }, context());
  const put = (saw: string, value: string) =>
    sendChange(
      subject,
      {
        batch: randomUUID(),
        records: [{ key: '7007', saw: { priority: saw } }],
        values: { priority: value },
      },
      sender(),
    );
  expect(await put('low', 'urgent')).toMatchObject({ state: 'conflict' });
  expect(await put('normal', 'gigantic')).toMatchObject({ state: 'wrong' });
  expect(await put('normal', 'urgent')).toMatchObject({
    state: 'done',
    words: 'Change priority: 1 work order.',
  });
  expect((await orders(7007))[0]).toMatchObject({ priority: 'urgent' });
});

test('what was done is taken back once, by whoever did it, unless it was changed since', async () => {
  const done = await send('done', keys(7001, 7002));
  if (done.state !== 'done') throw new Error('not done');
  const undo = (user = una) => undoChange({ batch: randomUUID(), of: done.batch }, sender(user));
  await expect(undo(magnus)).rejects.toThrow('cannot be');
  expect(await undo()).toMatchObject({ state: 'done', canUndo: false });
  expect(await orders(7001, 7002)).toMatchObject([
    { status: 'open', done: false },
    { status: 'open', done: false },
  ]);
  await expect(undo()).rejects.toThrow('undone already');
  const again = await send('done', keys(7001));
  if (again.state !== 'done') throw new Error('not done');
  await sound.client.query(`UPDATE work_orders SET status = 'in hand' WHERE id = 7001`);
  expect(await undoChange({ batch: randomUUID(), of: again.batch }, sender())).toMatchObject({
    state: 'conflict',
  });
  expect((await orders(7001))[0]).toMatchObject({ status: 'in hand' });
});

test('a record tells who changed what of it, of the fields that it shows', async () => {
  await send('defer', keys(7008), { values: { due_on: '2027-02-01' }, user: magnus });
  const { history, offers } = await openRecord({ pane: 'orders', key: '7008' }, context());
  expect(history[0]).toMatchObject({
    by: 'Magnus',
    words: 'Defer',
    fields: [
      { label: 'Status', before: 'Open', after: 'Deferred' },
      { label: 'Due', before: '1 Nov', after: expect.stringContaining('Feb') },
    ],
  });
  expect(offers).toMatchObject({ pane: 'orders' });
  const place = JSON.stringify([sound.ids.source, 'public', 'work_orders']);
  expect((await historyOf(place, '7008', 10))[0]).toMatchObject({ by: 'Magnus', before: { status: 'open' } });
  // Of one that the pane does not show, nothing is told.
  await send('done', keys(7008), { user: magnus });
  expect(await openRecord({ pane: 'orders', key: '7008' }, context())).toMatchObject({
    detail: { record: null },
    history: [],
  });
});

test('what a number or a chart opens can be acted on as another pane of the dashboard offers it, where that shows the record', async () => {
  const cell = { pane: 'by-vessel', values: [], of: [] };
  const { offers } = await openBehind(cell, { page: 1 }, context());
  expect(offers).toMatchObject({ pane: 'orders' });
  expect(offers?.actions.map(({ name }) => name)).toEqual(['done', 'defer', 'give']);
  expect((await openRecord({ pane: 'opened', key: '7001' }, context())).offers?.pane).toBe('orders');
  // It is done, and the table is of those that are not.
  expect((await openRecord({ pane: 'opened', key: '7009' }, context())).offers).toBeNull();
});

test('every open page over those records is told, whatever data set it shows them through', async () => {
  for (const [id, definition] of dataSets) await addDataSet({ id, name: id, definition, by: null });
  const heard: string[] = [];
  const stop = await listen('slate_changed', (notice) => heard.push(...noticedIds(notice ?? '')));
  await send('done', keys(7003));
  await expect.poll(() => heard).toContain(sound.ids.orders);
  // What is asked in SQL may read any table.
  await expect.poll(() => heard).toContain(sound.ids.waiting);
  expect(heard).not.toContain(sound.ids.sailings);
  await stop();
});

describe('a change that was cut off', () => {
  const cutOff = async (mark: string | null): Promise<string> => {
    const id = randomUUID();
    const place = JSON.stringify([sound.ids.source, 'public', 'work_orders']);
    await beginBatch({
      id,
      place,
      sourceId: sound.ids.source,
      dataSetId: sound.ids.orders,
      linesDataSetId: null,
      deskId: null,
      dashboardId,
      pane: 'Orders',
      label: 'Set done',
      way: 'update',
      undoes: null,
      userId: una.id,
      userName: una.name,
    });
    const order = { key: '7001', title: 'An order', before: { cost: '2' }, after: { cost: '1' } };
    if (mark !== null) await markBatch(id, mark, place, [order]);
    await database()
      .update(changeBatches)
      .set({ at: new Date(Date.now() - 200_000) });
    return id;
  };
  const transaction = async (end: 'COMMIT' | 'ROLLBACK'): Promise<string> => {
    await sound.client.query('BEGIN');
    await sound.client.query(`UPDATE work_orders SET cost = 1 WHERE id = 7001`);
    const { rows } = await sound.client.query('SELECT pg_current_xact_id()::text AS mark');
    await sound.client.query(end);
    return rows[0].mark;
  };

  test('before its end was not made; after it, the source says whether it was', async () => {
    const [never, made, not] = [
      await cutOff(null),
      await cutOff(await transaction('COMMIT')),
      await cutOff(await transaction('ROLLBACK')),
    ];
    await settleChanges(new Date());
    const states = await Promise.all([never, made, not].map(async (id) => (await findBatch(id))?.state));
    expect(states).toEqual(['refused', 'done', 'refused']);
    // What has ended does not end again.
    await endBatch(made, 'refused');
    expect((await findBatch(made))?.state).toBe('done');
    // One that was given up is never made after all.
    await expect(markBatch(never, '1', 'here', [])).rejects.toThrow('given up');
  });
});
