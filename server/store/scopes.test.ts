import { randomBytes, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { mostSavedScopes } from '#core/dashboard/scope/saved.ts';
import { ScopeAddress } from '#core/dashboard/scope/saved-request.ts';
import { dashboard } from '#testing/skerry.ts';
import { testDatabase } from '../../testing/database.ts';
import { addDashboard } from './dashboards.ts';
import { closeDatabase, migrateDatabase } from './database.ts';
import { addDesk } from './desks.ts';
import { addUser, personOf, signIn } from './people.ts';
import { openingAddresses, openWithScope, removeScope, saveScope, scopesFor } from './scopes.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
let [analyst, reader, desk] = ['', '', ''];
const ids = [randomUUID(), randomUUID()] as const;
const [dashboardId, other] = ids;

async function newPerson(email: string): Promise<string> {
  await addUser({ email, name: email, password: 'low-water' });
  return (await personOf((await signIn(email, 'low-water')) ?? ''))?.id ?? '';
}

beforeAll(async () => {
  database = await testDatabase();
  process.env.SLATE_DATABASE = database.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  [analyst, reader] = [await newPerson('analyst@skerry.example'), await newPerson('reader@skerry.example')];
  desk = (await addDesk({ slug: 'skerry', name: 'Skerry Sound', zone: 'Europe/London' })).id;
  for (const id of ids) await addDashboard({ id, deskId: desk, slug: id, draft: dashboard, by: analyst });
});
afterAll(async () => {
  await closeDatabase();
  await database.client.end();
});

const save = (owner: string | null, name: string, search: string, of = dashboardId) =>
  saveScope({ dashboardId: of, owner, name, search });
const namesFor = async (user: string, of = dashboardId) =>
  (await scopesFor(of, user)).map(({ name, isForAll }) => `${name}${isForAll ? ' (all)' : ''}`);

test('somebody finds their own scopes and those that are offered to all, of this dashboard, and nobody else’s', async () => {
  await save(analyst, 'Mine, late', '?route=a');
  await save(null, 'This month', '?departing=month');
  await save(analyst, 'Elsewhere', '?x=1', other);
  expect(await namesFor(analyst)).toEqual(['Mine, late', 'This month (all)']);
  expect(await namesFor(reader)).toEqual(['This month (all)']);
  expect(await namesFor(reader, other)).toEqual([]);
});

test('a name is of one scope: the latest that was saved under it, even when it is saved twice at once', async () => {
  await Promise.all([save(reader, 'Late', '?a=1'), save(reader, 'Late', '?a=1')]);
  await save(reader, 'Late', '?a=2');
  const late = (await scopesFor(dashboardId, reader)).filter(({ name }) => name === 'Late');
  expect(late.map(({ search }) => search)).toEqual(['?a=2']);
});

test('a dashboard opens with a scope for the one who chose it, until it is removed', async () => {
  const all = await scopesFor(dashboardId, reader);
  const late = all.find(({ name }) => name === 'Late')?.id ?? '';
  await openWithScope(dashboardId, reader, late);
  expect(await openingAddresses(desk, reader)).toEqual(new Map([[dashboardId, '?a=2']]));
  expect(await openingAddresses(desk, analyst)).toEqual(new Map());
  expect((await scopesFor(dashboardId, reader)).filter(({ opens }) => opens)).toHaveLength(1);
  await removeScope(dashboardId, late, [reader]);
  expect(await openingAddresses(desk, reader)).toEqual(new Map());
});

test('nobody removes or opens with what is somebody else’s', async () => {
  const [own] = await scopesFor(dashboardId, analyst);
  const id = own?.id ?? '';
  await removeScope(dashboardId, id, [reader]);
  await openWithScope(dashboardId, reader, id);
  expect(await openingAddresses(desk, reader)).toEqual(new Map());
  expect(await namesFor(analyst)).toContain('Mine, late');
});

test('there is an end to how many somebody keeps', async () => {
  for (let at = 0; at < mostSavedScopes; at += 1) await save(reader, `Number ${at}`, '?');
  expect(await save(reader, 'One more', '?')).toBe(false);
  expect(await save(reader, 'Number 0', '?b=1')).toBe(true);
});

test('what is drilled into, and the page of a list, are no part of a scope', () => {
  expect(ScopeAddress.parse('?route=a&late.page=3&late.order=-x&_drill=%5B%5D')).toBe(
    '?route=a&late.order=-x',
  );
  expect(ScopeAddress.parse('')).toBe('?');
  expect(ScopeAddress.safeParse('https://far.example/').success).toBe(false);
  expect(ScopeAddress.safeParse(`?${'a'.repeat(9000)}`).success).toBe(false);
});
