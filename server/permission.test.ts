import { randomBytes, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { testDatabase } from '#testing/database.ts';
import { type Need, permit, to } from './guard.ts';
import { may, roleWord } from './permission.ts';
import { addDashboard } from './store/dashboards.ts';
import { closeDatabase, migrateDatabase } from './store/database.ts';
import { addDesk } from './store/desks.ts';
import { addUser, personOf, type Role, signIn, type User } from './store/people.ts';

/* Roles are held on desks, against a real PostgreSQL with two of them. */

const password = 'low-water';
const people: Record<string, User> = {};
const desks = { sound: '', isles: '' };
const dashboards = { sound: randomUUID(), isles: randomUUID() };
let own: Awaited<ReturnType<typeof testDatabase>>;

async function person(name: string, more: Partial<User>): Promise<void> {
  await addUser({ email: `${name}@skerry.example`, name, password, ...more });
  const user = await personOf((await signIn(`${name}@skerry.example`, password)) ?? '');
  if (!user) throw new Error(`${name} cannot sign in`);
  people[name] = user;
}

beforeAll(async () => {
  own = await testDatabase();
  process.env.SLATE_DATABASE = own.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  for (const slug of ['sound', 'isles'] as const) {
    const desk = await addDesk({ slug, name: slug, zone: 'UTC' });
    desks[slug] = desk.id;
    const draft = { version: 4 as const, title: 'Morning', scope: [], panes: [] };
    await addDashboard({ id: dashboards[slug], deskId: desk.id, slug: 'morning', draft, by: null });
  }
  await person('administrator', { isAdministrator: true });
  for (const role of ['reader', 'supervisor', 'analyst'] as const)
    await person(role, { roles: { [desks.sound]: role } });
  await person('both', { roles: { [desks.sound]: 'analyst', [desks.isles]: 'reader' } });
  await person('nobody', {});
});
afterAll(async () => {
  await closeDatabase();
  await own.client.end();
});

/** What comes of a need: 200, or the status that was thrown. */
async function status(name: string, need: Need, params: Record<string, string> = {}): Promise<number> {
  const user = people[name];
  if (!user) throw new Error(`there is no ${name}`);
  try {
    await permit(user, need, params);
    return 200;
  } catch (thrown) {
    return (thrown as { init: { status: number } }).init.status;
  }
}

describe('on a desk of their own, on another one, and where there is no desk', () => {
  test.each([
    //                      read               act                build
    ['nobody', [403, 403, 403, 403, 403, 403, 403, 403, 403]],
    ['reader', [200, 404, 200, 403, 403, 403, 403, 403, 403]],
    ['supervisor', [200, 404, 200, 200, 404, 200, 403, 403, 403]],
    ['analyst', [200, 404, 200, 200, 404, 200, 200, 404, 200]],
    ['both', [200, 200, 200, 200, 403, 200, 200, 403, 200]],
    ['administrator', [200, 200, 200, 200, 200, 200, 200, 200, 200]],
  ])('%s', async (name, expected) => {
    const found: number[] = [];
    for (const verb of ['read', 'act', 'build'] as const) {
      found.push(await status(name, to(verb, 'the desk'), { desk: 'sound' }));
      found.push(await status(name, to(verb, 'the desk'), { desk: 'isles' }));
      found.push(await status(name, to(verb)));
      // A dashboard is as its desk is.
      for (const desk of ['sound', 'isles'] as const)
        expect(await status(name, to(verb, 'the dashboard'), { id: dashboards[desk] })).toBe(
          found.at(desk === 'sound' ? -3 : -2),
        );
    }
    expect(found).toEqual(expected);
  });

  test('what is not there is the same to everybody who may, and no id is no dashboard', async () => {
    for (const id of [randomUUID(), 'x', "' OR 1=1"])
      expect(await status('analyst', to('read', 'the dashboard'), { id })).toBe(404);
    expect(await status('administrator', to('read', 'the desk'), { desk: 'none' })).toBe(404);
    expect(await status('reader', to('build', 'the dashboard'), { id: randomUUID() })).toBe(403);
  });

  test('only administrators have the installation', () => {
    for (const [name, user] of Object.entries(people))
      for (const verb of ['read', 'act', 'build', 'administer'] as const)
        expect(may(user, verb, 'installation'), `${name} ${verb}`).toBe(name === 'administrator');
  });

  test('a role is called by the desk, and else by the highest', () => {
    const { both, nobody, administrator } = people;
    if (!both || !nobody || !administrator) throw new Error('somebody is missing');
    expect([roleWord(both, desks.sound), roleWord(both, desks.isles), roleWord(both)]).toEqual([
      'analyst',
      'reader',
      'analyst',
    ] satisfies Role[]);
    expect([roleWord(nobody), roleWord(administrator, desks.isles)]).toEqual([
      'no role yet',
      'administrator',
    ]);
  });
});

test('an installation from before keeps everybody’s role, on every desk that it has', async () => {
  const before = await testDatabase();
  const run = (from: number, to_: number): Promise<unknown> =>
    before.client.query(
      (
        JSON.parse(readFileSync('drizzle/meta/_journal.json', 'utf8')) as { entries: { tag: string }[] }
      ).entries
        .slice(from, to_)
        .map(({ tag }) => readFileSync(`drizzle/${tag}.sql`, 'utf8'))
        .join(';\n'),
    );
  await run(0, 6);
  await before.client.query(`
    INSERT INTO desks (slug, name, zone) VALUES ('sound', 'Sound', 'UTC'), ('isles', 'Isles', 'UTC');
    INSERT INTO users (email, name, password_hash, role) VALUES ('a@skerry.example', 'A', 'x', 'administrator'), ('r@skerry.example', 'R', 'x', 'reader')`);
  await run(6, 8);
  const { rows } = await before.client.query(`
    SELECT u.name, u.is_administrator, d.slug, r.role FROM users u LEFT JOIN desk_roles r ON r.user_id = u.id LEFT JOIN desks d ON d.id = r.desk_id ORDER BY 1, 3`);
  expect(rows).toEqual([
    { name: 'A', is_administrator: true, slug: null, role: null },
    { name: 'R', is_administrator: false, slug: 'isles', role: 'reader' },
    { name: 'R', is_administrator: false, slug: 'sound', role: 'reader' },
  ]);
  await before.client.end();
});
