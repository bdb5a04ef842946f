import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { BlockLook } from '#core/change/answer.ts';
import type { PastedBlock } from '#core/change/asked.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { vesselUpkeep } from '#demo/dashboards/vessel-upkeep.ts';
import { zone } from '#demo/line.ts';
import { soundFixture } from '../../testing/sound.ts';
import { contextOf } from '../panes/context.ts';
import { recordsOfBatch } from '../store/changes.ts';
import { addUser, personOf, signIn, type User } from '../store/people.ts';
import { setChanger } from '../store/sources.ts';
import { blockSubjectOf, compareWithBlock, sendBlock } from './block.ts';
import type { Sender } from './send.ts';
import { undoChange } from './undo.ts';

const now = new Date('2026-11-23T12:00:00Z');
let sound: Awaited<ReturnType<typeof soundFixture>>;
let dashboard: Dashboard;
let dataSets: Map<string, DataSet>;
let una: User;

beforeAll(async () => {
  sound = await soundFixture(now);
  dashboard = vesselUpkeep(sound.ids);
  dataSets = new Map(sound.dataSets);
  await addUser({ email: 'una@skerry.example', name: 'Una', password: 'low-water' });
  const user = await personOf((await signIn('una@skerry.example', 'low-water')) ?? '');
  if (!user) throw new Error('nobody signed in');
  una = user;
});
beforeEach(async () => {
  await setChanger(sound.ids.source, { user: sound.address.user, secret: sound.address.password });
  await sound.client.query(
    `UPDATE work_orders SET status = 'open', done_at = NULL, due_on = '2026-11-01', priority = 'normal', title = 'Order ' || id WHERE id < 7011;
     UPDATE work_orders SET status = 'done', done_at = '2026-11-02T00:00:00Z' WHERE id IN (7009, 7010)`,
  );
});
afterAll(() => sound.end());

const context = (): Context =>
  contextOf(
    { dashboard, dataSets, desk: { id: '', name: 'Skerry Sound', slug: 'skerry-sound', zone } } as never,
    new URLSearchParams(),
    now,
    una,
  ).context;
const sender = (): Sender => ({
  user: una,
  deskId: null,
  dashboardId: '00000000-0000-4000-8000-000000000000',
  context: context(),
});
const subject = () => blockSubjectOf('orders', context());
const compare = (block: PastedBlock): Promise<BlockLook> => compareWithBlock(subject(), block, sender());
const text = (...lines: string[]): PastedBlock => ({ text: lines.join('\n'), areNew: false });
const send = ({ changes, additions }: Pick<BlockLook, 'changes' | 'additions'>, batch = randomUUID()) =>
  sendBlock(subject(), { batch, changes, additions }, sender());
const orders = async (...ids: number[]): Promise<Record<string, string | null>[]> =>
  (
    await sound.client.query(
      `SELECT id::text, status, priority, due_on::text FROM work_orders WHERE id = ANY($1) ORDER BY id`,
      [ids],
    )
  ).rows;

describe('rows of a spreadsheet', () => {
  test('change the records that their key says, each to its own values; what is so already is left alone', async () => {
    const found = await compare(
      text(
        'Id\tPriority\tDue',
        '7001\tUrgent\t3 Jan 2027',
        '7002\tnormal\t2026-11-01',
        '7003\thigh\t01/12/2026',
      ),
    );
    expect(found).toMatchObject({ same: 1, unusableCount: 0, unread: [], additions: [] });
    expect(found.changes.map(({ key, saw, values }) => ({ key, saw, values }))).toEqual([
      {
        key: '7001',
        saw: { priority: 'normal', due_on: '2026-11-01' },
        values: { priority: 'urgent', due_on: '2027-01-03' },
      },
      {
        key: '7003',
        saw: { priority: 'normal', due_on: '2026-11-01' },
        values: { priority: 'high', due_on: '2026-12-01' },
      },
    ]);
    expect(found.examples[0]).toEqual({
      title: 'Order 7001',
      isNew: false,
      fields: [
        { label: 'Priority', was: 'Normal', is: 'Urgent' },
        { label: 'Due', was: '1 Nov', is: '3 Jan 2027' },
      ],
    });
    const done = await send(found);
    expect(done).toMatchObject({ state: 'done', words: 'Pasted changes: 2 work orders.', canUndo: true });
    expect(await orders(7001, 7002, 7003)).toMatchObject([
      { priority: 'urgent', due_on: '2027-01-03' },
      { priority: 'normal', due_on: '2026-11-01' },
      { priority: 'high', due_on: '2026-12-01' },
    ]);
    if (done.state !== 'done') throw new Error('not done');
    await undoChange({ batch: randomUUID(), of: done.batch }, sender());
    expect(await orders(7001, 7003)).toMatchObject([
      { priority: 'normal', due_on: '2026-11-01' },
      { priority: 'normal', due_on: '2026-11-01' },
    ]);
  });

  test('are told by their name where no column is the key, and one that several have is not guessed at', async () => {
    await sound.client.query(`UPDATE work_orders SET title = 'Order 7002' WHERE id = 7003`);
    const found = await compare(
      text('Title,Priority', 'Order 7001,high', 'Order 7002,high', 'Order 70001,high'),
    );
    expect(found.changes.map(({ key }) => key)).toEqual(['7001']);
    // A name that no record has is no new record: it may be mistyped, or be of one that this table does not show.
    expect(found.additions).toEqual([]);
    expect(found.unusable).toEqual([
      { place: 3, identity: 'Order 7002', why: 'more than one work order is called that' },
      { place: 4, identity: 'Order 70001', why: 'this table shows no such work order' },
    ]);
  });

  test('that cannot be used say why, each by its place, and none of them is sent', async () => {
    const found = await compare(
      text(
        'Id;Priority;Due;Cost;Colour',
        '7001;gigantic;2026-12-01;1;red',
        '7002;high;soon;1;red',
        '7003;high;2026-12-01;1;red',
        '7003;low;2026-12-01;1;red',
        '7009;low;;1;red',
        'one;low;;1;red',
        ';low;2026-12-01;1;red',
      ),
    );
    expect(found.changes.map(({ key }) => key)).toEqual(['7003']);
    expect(found.unusable.map(({ place, why }) => `${place}: ${why}`)).toEqual([
      '2: Priority: “gigantic” is none of low, normal, high and urgent',
      '3: Due: “soon” is not a date such as 2026-11-23',
      '5: row 4 is of the same work order',
      // It is done, and the table shows those that are not.
      '6: this table shows no such work order',
      '7: this table shows no such work order',
      '8: Title: it is needed; Vessel: it is needed',
    ]);
    expect(found.unread).toEqual([
      { head: 'Colour', why: 'there is no such field here' },
      { head: 'Cost', why: 'it cannot be changed here' },
    ]);
  });

  test('are new records where somebody says so, with names for what they point at', async () => {
    const { rows } = await sound.client.query('SELECT id::text, name FROM vessels ORDER BY id LIMIT 1');
    const [vessel] = rows;
    const found = await compare({
      text: `Title,Vessel id,Priority,Due\nMend the davit,${vessel.name},High,2026-12-24\n,${vessel.name},low,2026-12-24`,
      areNew: true,
    });
    expect(found.additions).toEqual([
      { title: 'Mend the davit', vessel_id: vessel.id, priority: 'high', due_on: '2026-12-24' },
    ]);
    expect(found.unusable).toEqual([{ place: 3, identity: null, why: 'Title: it is needed' }]);
    const batch = randomUUID();
    expect(await send(found, batch)).toMatchObject({ state: 'done' });
    // Sent twice under one name it is done once.
    expect(await send(found, batch)).toMatchObject({ state: 'done' });
    const added = await sound.client.query(
      `SELECT priority, status FROM work_orders WHERE title = 'Mend the davit'`,
    );
    expect(added.rows).toEqual([{ priority: 'high', status: 'open' }]);
    await sound.client.query(`DELETE FROM work_orders WHERE title = 'Mend the davit'`);
  });

  test('change and add in one go: all, or none where one of them has become another meanwhile', async () => {
    const [vessel] = (await sound.client.query('SELECT id::text FROM vessels LIMIT 1')).rows;
    const found = await compare(
      text(
        'Id\tTitle\tVessel id\tPriority\tDue',
        `7001\tOrder 7001\t${vessel.id}\thigh\t2026-12-01`,
        `\tReplace the bilge hose\t${vessel.id}\tlow\t2026-12-02`,
      ),
    );
    expect([found.changes.length, found.additions.length]).toEqual([1, 1]);
    await sound.client.query(`UPDATE work_orders SET priority = 'low' WHERE id = 7001`);
    const crossed = await send(found);
    expect(crossed).toMatchObject({
      state: 'conflict',
      conflicts: [
        { key: '7001', title: 'Order 7001', fields: [{ label: 'Priority', saw: 'Normal', is: 'Low' }] },
      ],
    });
    const added = () =>
      sound.client.query(`SELECT id::text FROM work_orders WHERE title = 'Replace the bilge hose'`);
    expect((await added()).rows).toEqual([]);
    const batch = randomUUID();
    const again = await compare(
      text(
        'Id\tTitle\tVessel id\tPriority\tDue',
        `7001\tOrder 7001\t${vessel.id}\thigh\t2026-12-01`,
        `\tReplace the bilge hose\t${vessel.id}\tlow\t2026-12-02`,
      ),
    );
    expect(await send(again, batch)).toMatchObject({ state: 'done', canUndo: true });
    expect((await added()).rows).toHaveLength(1);
    expect((await recordsOfBatch(batch)).map(({ before }) => before === null)).toEqual([false, true]);
    await undoChange({ batch: randomUUID(), of: batch }, sender());
    expect((await added()).rows).toEqual([]);
    expect(await orders(7001)).toMatchObject([{ priority: 'low' }]);
  });

  test('pasted onto cells go to those records and fields, and what reaches beyond them is said', async () => {
    const onto = { keys: ['7001', '7002', '7003'], fields: ['priority', 'due_on', 'vessel'] };
    const found = await compare({ text: 'high\t5 Dec 2026\tx\ty\nlow\t\tx\ty\n\n\nlow\t\t\t', onto });
    expect(found.beyond).toEqual({ rows: 2, columns: 1 });
    expect(found.unread).toEqual([{ head: 'Vessel', why: 'it cannot be changed here' }]);
    expect(found.changes.map(({ key, values }) => [key, values])).toEqual([
      ['7001', { priority: 'high', due_on: '2026-12-05' }],
    ]);
    // A cell that is blank makes the value blank, where it may be.
    expect(found.unusable.map(({ why }) => why)).toEqual([
      'Due: it cannot be blank',
      'Priority: it cannot be blank; Due: it cannot be blank',
    ]);
  });

  test('that make no sense as a whole are refused with what they should be', async () => {
    await expect(compare(text('Colour', 'red'))).rejects.toThrow(
      'no column says which work order a row is of',
    );
    await expect(compare(text('Id', '7001'))).rejects.toThrow('no column holds what can be changed');
    await expect(compare(text('Id,Priority,priority', '7001,low,low'))).rejects.toThrow(
      'two columns hold “Priority”',
    );
    expect(await compare(text('Id,Priority'))).toMatchObject({ changes: [], same: 0, unusableCount: 0 });
    const many = Array.from({ length: 10_001 }, (_, at) => `${at},low`);
    await expect(compare(text('Id,Priority', ...many))).rejects.toThrow('10,000');
  });
});

test('what no page came to by comparing is refused: a field that is not offered, a record out of sight, a value that cannot be', async () => {
  const change = (key: string, values: Record<string, string | null>) =>
    send({ changes: [{ key, title: '', saw: { ...values, priority: 'normal' }, values }], additions: [] });
  await expect(change('7001', { cost: '1' })).rejects.toThrow('not offered here');
  await expect(change('7001', { status: 'done' })).rejects.toThrow('not offered here');
  await expect(change('7009', { priority: 'low' })).rejects.toThrow('not offered for 1 of these 1');
  await expect(change('7001', { priority: 'gigantic' })).rejects.toThrow('since they were compared');
  await expect(send({ changes: [], additions: [{ title: 'No vessel' }] })).rejects.toThrow(
    'since they were compared',
  );
  await expect(send({ changes: [], additions: [] })).rejects.toThrow('no work order was chosen');
  expect(() => blockSubjectOf('order-cards', context())).toThrow('not offered here');
  expect(await orders(7001)).toMatchObject([{ status: 'open', priority: 'normal' }]);
});
