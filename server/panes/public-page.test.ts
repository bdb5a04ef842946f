import { randomBytes, randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { incidents, sailings } from '#testing/skerry.ts';
import { testDatabase } from '../../testing/database.ts';
import { addDashboard, publish } from '../store/dashboards.ts';
import { closeDatabase, database, migrateDatabase } from '../store/database.ts';
import { addDesk } from '../store/desks.ts';
import { addUser } from '../store/people.ts';
import { addPublicLink, listPublicLinks, publicLinkOf, sitesOfLink } from '../store/public-links.ts';
import { deskRoles, desks } from '../store/tables/desks.ts';
import { users } from '../store/tables/people.ts';
import { notForEverybody, publicPage } from './public-page.ts';

/* What a link shows to whoever has it, and when it shows nothing any more. */

let own: Awaited<ReturnType<typeof testDatabase>>;
let desk: string;
let maker: string;
const dashboardId = randomUUID();
const signal = new AbortController().signal;
const soon = new Date(Date.now() + 60_000);
const link = (endsAt = soon, more: { pane?: string; sites?: string[] } = {}) =>
  addPublicLink({
    dashboardId,
    madeBy: maker,
    name: 'The yard',
    search: '',
    pane: null,
    sites: [],
    endsAt,
    ...more,
  });
const shown = (token: string) => publicPage(token, new Date(), signal);
const words = (id: string) => ({
  kind: 'note' as const,
  id,
  title: id,
  text: 'Mind the ramp.',
  values: [],
  place: { x: 0, y: 0, w: 6, h: 4 },
});
const allow = (publicLinks: boolean) =>
  database().update(desks).set({ publicLinks }).where(eq(desks.id, desk));

beforeAll(async () => {
  own = await testDatabase();
  process.env.SLATE_DATABASE = own.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  desk = (await addDesk({ slug: 'sound', name: 'Sound', zone: 'UTC' })).id;
  await addUser({
    email: 'una@skerry.example',
    name: 'Una',
    password: 'low-water',
    roles: { [desk]: 'analyst' },
  });
  const [una] = await database().select({ id: users.id }).from(users);
  maker = una?.id ?? '';
  const draft = { version: 4 as const, title: 'Morning', scope: [], panes: [words('one'), words('two')] };
  await addDashboard({ id: dashboardId, deskId: desk, slug: 'morning', draft, by: null });
  await publish(dashboardId, null, null);
});
afterAll(async () => {
  await closeDatabase();
  await own.client.end();
});

test('a link shows its dashboard only where the desk allows it, until it ends, and as long as its maker may build there', async () => {
  const token = await link();
  expect(await shown(token)).toBeNull();
  await allow(true);
  expect(await shown(token)).toMatchObject({ title: 'Morning', desk: { name: 'Sound' }, isOnePane: false });
  expect((await shown(token))?.panes.map(({ pane, result }) => [pane.id, result.state])).toEqual([
    ['one', 'ready'],
    ['two', 'ready'],
  ]);
  const sites = ['https://yard.example'];
  const framed = await link(soon, { pane: 'two', sites });
  expect(await shown(framed)).toMatchObject({ isOnePane: true, panes: [{ pane: { id: 'two' } }] });
  expect([await sitesOfLink(framed), await sitesOfLink(token)]).toEqual([sites, []]);
  expect(await shown(`${token}x`)).toBeNull();
  expect(await shown(await link(new Date(Date.now() - 1)))).toBeNull();
  expect(await listPublicLinks(dashboardId)).toHaveLength(2);
  await database().update(deskRoles).set({ role: 'reader' }).where(eq(deskRoles.deskId, desk));
  expect(await publicLinkOf(token)).not.toBeNull();
  expect(await shown(token)).toBeNull();
  await database().update(deskRoles).set({ role: 'analyst' }).where(eq(deskRoles.deskId, desk));
  expect(await shown(token)).not.toBeNull();
  await allow(false);
  expect(await shown(token)).toBeNull();
});

test('records of which people see only their own are for nobody in particular', () => {
  expect(notForEverybody([sailings, incidents])).toBeNull();
  const rowRule = {
    field: 'route',
    test: { op: 'against' as const, is: 'same' as const, to: { theirs: 'Route' } },
  };
  expect(notForEverybody([incidents, { ...sailings, rowRule }])).toBe(
    'who sees which sailings goes by who asks, so they cannot be shown to everybody',
  );
});
