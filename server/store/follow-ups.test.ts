import { randomBytes, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { dashboard } from '#testing/skerry.ts';
import { testDatabase } from '../../testing/database.ts';
import { addDashboard } from './dashboards.ts';
import { closeDatabase, migrateDatabase } from './database.ts';
import { addDesk } from './desks.ts';
import {
  addFollowUp,
  countGiven,
  deskActors,
  followUpOf,
  listFollowUps,
  type NewNote,
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
  const found = await followUpOf({ deskId: desk, place: 'orders', key: '1' });
  expect(found).toMatchObject({ state: 'settled', due: null, givenTo: magnus });
  expect(found?.notes.map(({ note, state, due, givenTo }) => [note, state, due, givenTo])).toEqual([
    ['they came', 'settled', null, 'Magnus'],
    ['rang the yard', 'waiting', '2026-12-01', null],
  ]);
  // The same key of other records, or on another desk, is another record.
  expect(await followUpOf({ deskId: desk, place: 'incidents', key: '1' })).toBeNull();
  expect(await followUpOf({ deskId: other, place: 'orders', key: '1' })).toBeNull();
});

test('two people who say something at once are both heard', async () => {
  await Promise.all(Array.from({ length: 6 }, (_, at) => say('2', { note: `note ${at}` })));
  expect((await followUpOf({ deskId: desk, place: 'orders', key: '2' }))?.notes).toHaveLength(6);
});

test('who has waited longest untouched comes first; what is settled is in a list of its own, and what is given is counted', async () => {
  await say('3', { givenTo: { id: una, name: 'Una' } });
  await say('4', { state: 'waiting', givenTo: { id: una, name: 'Una' } });
  await say('2');
  const keys = async (how: Parameters<typeof listFollowUps>[1]) =>
    (await listFollowUps(desk, how)).map(({ key }) => key);
  expect(await keys({ isSettled: false, person: null })).toEqual(['3', '4', '2']);
  expect(await keys({ isSettled: false, person: una })).toEqual(['3', '4']);
  expect(await keys({ isSettled: true, person: null })).toEqual(['1']);
  expect(await countGiven(desk, una)).toBe(2);
  await say('3', { state: 'settled', givenTo: { id: una, name: 'Una' } });
  expect([await countGiven(desk, una), await countGiven(desk, magnus), await countGiven(other, una)]).toEqual(
    [1, 0, 0],
  );
  expect(await listFollowUps(other, { isSettled: false, person: null })).toEqual([]);
});
