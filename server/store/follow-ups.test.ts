import { randomBytes, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { FollowUpList } from '#core/change/follow-up.ts';
import { dashboard } from '#testing/skerry.ts';
import { testDatabase } from '../../testing/database.ts';
import { listen } from '../live/listen.ts';
import { addDashboard } from './dashboards.ts';
import { closeDatabase, migrateDatabase } from './database.ts';
import { addDesk } from './desks.ts';
import {
  addFollowUp,
  countFor,
  deskActors,
  fileOf,
  followUpOf,
  listFollowUps,
  type NewNote,
  noteSeen,
} from './follow-ups.ts';
import { addUser } from './people.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
let [desk, other, una, magnus] = ['', '', '', ''];
const dashboardId = randomUUID();

beforeAll(async () => {
  database = await testDatabase();
  process.env.SLATE_DATABASE = database.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  desk = (await addDesk({ slug: 'skerry', name: 'Skerry Sound', zone: 'Europe/London' })).id;
  other = (await addDesk({ slug: 'norrick', name: 'Norrick', zone: 'Europe/London' })).id;
  for (const [name, role] of [
    ['Una', 'supervisor'],
    ['Magnus', 'analyst'],
    ['Iona', 'reader'],
  ] as const)
    await addUser({ email: `${name}@skerry.example`, name, password: 'low-water', roles: { [desk]: role } });
  await addDashboard({ id: dashboardId, deskId: desk, slug: 'brief', draft: dashboard, by: null });
  const people = await deskActors(desk);
  [magnus, una] = people.map(({ id }) => id) as [string, string];
});
afterAll(async () => {
  await closeDatabase();
  await database.client.end();
});

const say = (key: string, more: Partial<NewNote> = {}) =>
  addFollowUp({
    deskId: desk,
    place: 'orders',
    key,
    dataSetId: randomUUID(),
    dashboardId,
    pane: 'list',
    title: `order ${key}`,
    noun: 'work order',
    by: { id: una, name: 'Una' },
    note: 'looked at it',
    state: 'open',
    due: null,
    givenTo: null,
    ...more,
  });

test('it can be given to whoever may change things on the desk, and to nobody else', async () => {
  expect((await deskActors(desk)).map(({ name }) => name)).toEqual(['Magnus', 'Una']);
  expect(await deskActors(other)).toEqual([]);
});

test('what is said of a record is kept, latest first, and says how it stands', async () => {
  await say('1', { note: 'rang the yard', state: 'waiting', due: '2026-12-01' });
  await say('1', { note: 'they came', state: 'settled', givenTo: { id: magnus, name: 'Magnus' } });
  const found = await followUpOf({ deskId: desk, place: 'orders', key: '1' }, una);
  expect(found).toMatchObject({ state: 'settled', due: null, givenTo: magnus });
  expect(found?.notes.map(({ note, state, due, givenTo }) => [note, state, due, givenTo])).toEqual([
    ['they came', 'settled', null, 'Magnus'],
    ['rang the yard', 'waiting', '2026-12-01', null],
  ]);
  // The same key of other records, or on another desk, is another record.
  expect(await followUpOf({ deskId: desk, place: 'incidents', key: '1' }, una)).toBeNull();
  expect(await followUpOf({ deskId: other, place: 'orders', key: '1' }, una)).toBeNull();
});

test('two people who say something at once are both heard', async () => {
  await Promise.all(Array.from({ length: 6 }, (_, at) => say('2', { note: `note ${at}` })));
  expect((await followUpOf({ deskId: desk, place: 'orders', key: '2' }, una))?.notes).toHaveLength(6);
});

test('who has waited longest untouched comes first; what is settled is in a list of its own, and what is given is counted', async () => {
  await say('3', { givenTo: { id: una, name: 'Una' } });
  await say('4', { state: 'waiting', givenTo: { id: una, name: 'Una' } });
  await say('2');
  const keys = async (list: FollowUpList, person = una) =>
    (await listFollowUps(desk, list, person)).map(({ key }) => key);
  expect(await keys('open')).toEqual(['3', '4', '2']);
  expect(await keys('mine')).toEqual(['3', '4']);
  expect(await keys('settled')).toEqual(['1']);
  expect(await countFor(desk, una)).toBe(2);
  await say('3', { state: 'settled', givenTo: { id: una, name: 'Una' } });
  expect([await countFor(desk, una), await countFor(desk, magnus), await countFor(other, una)]).toEqual([
    1, 0, 0,
  ]);
  expect(await listFollowUps(other, 'open', una)).toEqual([]);
});

test('who is told of a note has it counted until they have seen it, also of what is settled, and hears of it at once', async () => {
  const heard: string[] = [];
  const stop = await listen('slate_given', (person) => heard.push(person ?? ''));
  const of = { deskId: desk, place: 'orders', key: '5' };
  await say('5', { tells: [magnus, magnus], note: 'ask the yard' });
  await say('5', { tells: [magnus], state: 'settled' });
  expect(await countFor(desk, magnus)).toBe(1);
  expect(await listFollowUps(desk, 'mine', magnus)).toMatchObject([{ key: '5', isNews: true }]);
  const found = await followUpOf(of, magnus);
  expect(found?.isNews).toBe(true);
  expect(found?.notes.map(({ recipients }) => recipients)).toEqual([['Magnus'], ['Magnus']]);
  // It is news to those who were told, and to nobody else.
  expect((await followUpOf(of, una))?.isNews).toBe(false);
  await noteSeen(of, una);
  expect(await countFor(desk, magnus)).toBe(1);
  await noteSeen(of, magnus);
  expect(await countFor(desk, magnus)).toBe(0);
  expect(await listFollowUps(desk, 'mine', magnus)).toEqual([]);
  expect((await followUpOf(of, magnus))?.isNews).toBe(false);
  // Once for each note, once for having seen them; whoever a record is taken from hears of that too.
  await say('5', { givenTo: { id: una, name: 'Una' } });
  await say('5', { givenTo: { id: magnus, name: 'Magnus' } });
  await expect.poll(() => heard).toEqual([magnus, magnus, magnus, una, una, magnus]);
  await stop();
});

test('files stand with the note that they were sent with, and are had of that record alone', async () => {
  const of = { deskId: desk, place: 'orders', key: '6' };
  const bytes = Buffer.from([0, 255, 10, 13]);
  await say('6', {
    files: [
      { name: 'davit – größe.jpg', bytes },
      { name: 'a.txt', bytes: Buffer.from('Ahoy') },
    ],
  });
  await say('6');
  const notes = (await followUpOf(of, una))?.notes ?? [];
  expect(notes.map(({ files }) => files.map(({ name, bytes: size }) => [name, size]))).toEqual([
    [],
    [
      ['a.txt', 4],
      ['davit – größe.jpg', 4],
    ],
  ]);
  const id = notes[1]?.files[1]?.id ?? '';
  expect(await fileOf(of, id)).toEqual({ name: 'davit – größe.jpg', bytes });
  expect(await fileOf({ ...of, key: '5' }, id)).toBeNull();
  expect(await fileOf({ ...of, deskId: other }, id)).toBeNull();
});
