import { spawnSync } from 'node:child_process';
import { randomBytes, randomUUID } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { dashboardChanges } from '#core/dashboard/compare.ts';
import { migrateDashboard, migrateDataSet } from '#core/dashboard/migrate.ts';
import { dashboard, ids, incidents, sailings } from '#testing/skerry.ts';
import { testDatabase } from '../../testing/database.ts';
import { open, seal } from '../secrets.ts';
import {
  addDashboard,
  findDraft,
  findPublished,
  isAsPublished,
  menuOf,
  publish,
  saveDraft,
  setPublished,
  slugOf,
  stampOf,
} from './dashboards.ts';
import { addDataSet, findDataSet, saveDataSet, usersOfDataSet } from './data-sets.ts';
import { closeDatabase, inTransaction, migrateDatabase } from './database.ts';
import { addDesk } from './desks.ts';
import { addUser, personOf, signIn, signOut } from './people.ts';
import { addSource, findSource, listSources, sourceWithSecret } from './sources.ts';

let database: Awaited<ReturnType<typeof testDatabase>>;
let analyst = '';
let desk = '';
const report = { facts: [], warnings: [], clockSkewMs: 0, tookMs: 1, at: '2026-11-23T12:00:00Z' };
const connection = {
  kind: 'postgres' as const,
  host: '127.0.0.1',
  port: 5432,
  database: 'd',
  user: 'u',
  tls: 'off' as const,
};

beforeAll(async () => {
  database = await testDatabase();
  process.env.SLATE_DATABASE = database.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  await addUser({
    email: 'Analyst@skerry.example',
    name: 'Magnus Drever',
    password: 'low-water',
  });
  analyst = (await personOf((await signIn('analyst@skerry.example', 'low-water')) ?? ''))?.id ?? '';
  desk = (await addDesk({ slug: 'skerry', name: 'Skerry Sound', zone: 'Europe/London' })).id;
  await addSource({
    id: ids.source,
    name: 'Sound',
    connection,
    report,
    secret: 'tide-table',
    madeBy: analyst,
  });
  await addDataSet({ id: ids.sailings, name: 'Sailings', definition: sailings, by: analyst });
  await addDataSet({ id: ids.incidents, name: 'Incidents', definition: incidents, by: analyst });
});
afterAll(async () => {
  await closeDatabase();
  await database.client.end();
});

async function draft() {
  const id = randomUUID();
  await addDashboard({
    id,
    deskId: desk,
    slug: slugOf('Morning brief'),
    draft: dashboard,
    by: analyst,
  });
  return id;
}

describe('signing in', () => {
  test('takes the right password only, whatever the case of the address', async () => {
    expect(await signIn('ANALYST@skerry.example', 'low-water')).not.toBeNull();
    expect(await signIn('analyst@skerry.example', 'low-wate')).toBeNull();
    expect(await signIn('nobody@skerry.example', 'low-water')).toBeNull();
  });

  test('ends when one signs out', async () => {
    const token = (await signIn('analyst@skerry.example', 'low-water')) ?? '';
    expect((await personOf(token))?.name).toBe('Magnus Drever');
    await signOut(token);
    expect(await personOf(token)).toBeNull();
  });

  test('ends by itself: a session past its time is nobody’s', async () => {
    const token = (await signIn('analyst@skerry.example', 'low-water')) ?? '';
    await database.client.query("UPDATE sessions SET expires_at = now() - interval '1 second'");
    expect(await personOf(token)).toBeNull();
  });

  test('keeps neither passwords nor tokens', async () => {
    const token = (await signIn('analyst@skerry.example', 'low-water')) ?? '';
    const { rows } = await database.client.query('SELECT u::text || s::text AS all FROM users u, sessions s');
    const kept = JSON.stringify(rows);
    expect(kept).not.toContain('low-water');
    expect(kept).not.toContain(token);
    expect(kept).toContain('$argon2id$');
  });
});

describe('credentials', () => {
  test('are sealed: the database never holds them in the clear, and lists never carry them', async () => {
    const { rows } = await database.client.query(
      "SELECT encode(secret, 'escape') || sources::text AS all FROM sources",
    );
    expect(JSON.stringify(rows)).not.toContain('tide-table');
    expect(JSON.stringify([await listSources(), await findSource(ids.source)])).not.toContain('tide-table');
    expect((await sourceWithSecret(ids.source)).secret).toBe('tide-table');
  });

  test('open only for what they were sealed for, and not when a bit was changed', () => {
    const sealed = seal('tide-table', 'a');
    expect(open(sealed, 'a')).toBe('tide-table');
    expect(() => open(sealed, 'b')).toThrow();
    sealed[20] = (sealed[20] ?? 0) ^ 1;
    expect(() => open(sealed, 'a')).toThrow();
  });
});

describe('two people editing', () => {
  test('the later save is refused with who saved what, and nothing is lost', async () => {
    const id = await draft();
    const first = await saveDraft({
      id,
      draft: { ...dashboard, title: 'Evening brief' },
      revision: 1,
      by: analyst,
    });
    expect(first).toEqual({ ok: true, revision: 2 });
    const second = await saveDraft({ id, draft: { ...dashboard, panes: [] }, revision: 1, by: analyst });
    expect(second).toMatchObject({ ok: false, revision: 2, by: 'Magnus Drever' });
    const now = await findDraft(id);
    expect(now?.dashboard.title).toBe('Evening brief');
    expect(dashboardChanges(dashboard, now?.dashboard ?? dashboard)).toEqual([
      'The title is now “Evening brief”.',
    ]);
  });

  test('of two saves at the very same moment one wins and one is told', async () => {
    const id = await draft();
    const saves = await Promise.all(
      Array.from({ length: 6 }, (_, n) =>
        saveDraft({ id, draft: { ...dashboard, title: `T${n}` }, revision: 1, by: analyst }),
      ),
    );
    expect(saves.filter(({ ok }) => ok)).toHaveLength(1);
  });

  test('a data set is guarded in the same way', async () => {
    const change = { id: ids.incidents, name: 'Incidents', definition: incidents, by: analyst };
    expect((await saveDataSet({ ...change, revision: 1 })).ok).toBe(true);
    expect((await saveDataSet({ ...change, revision: 1 })).ok).toBe(false);
    expect((await findDataSet(ids.incidents))?.revision).toBe(2);
  });
});

describe('publishing', () => {
  test('freezes the dashboard and its data sets: drafts change nothing for readers', async () => {
    const id = await draft();
    expect(await findPublished({ id })).toBeNull();
    await publish(id, analyst, null);
    await saveDraft({ id, draft: { ...dashboard, title: 'Changed' }, revision: 1, by: analyst });
    const stored = await findDataSet(ids.sailings);
    await saveDataSet({
      id: ids.sailings,
      name: 'Sailings',
      definition: { ...sailings, noun: { one: 'crossing', many: 'crossings' } },
      revision: stored?.revision ?? 1,
      by: analyst,
    });
    const readers = await findPublished({ id });
    expect(readers?.dashboard.title).toBe('Morning brief');
    expect(readers?.dataSets.get(ids.sailings)?.noun.one).toBe('sailing');
    expect((await findDraft(id))?.dataSets.get(ids.sailings)?.noun.one).toBe('crossing');
  });

  test('can go back to an earlier version, and be withdrawn', async () => {
    const id = await draft();
    await publish(id, analyst, null);
    await saveDraft({ id, draft: { ...dashboard, title: 'Second' }, revision: 1, by: analyst });
    expect(await publish(id, analyst, null)).toEqual({ ok: true, number: 2 });
    expect((await findPublished({ id }))?.dashboard.title).toBe('Second');
    await setPublished(id, 1);
    expect((await findPublished({ id }))?.dashboard.title).toBe('Morning brief');
    await setPublished(id, null);
    expect(await findPublished({ id })).toBeNull();
    expect((await menuOf(desk, true)).some((item) => item.id === id)).toBe(false);
    expect((await menuOf(desk, false)).some((item) => item.id === id)).toBe(true);
  });

  test('by several at once numbers the versions one after another', async () => {
    const id = await draft();
    const numbers = await Promise.all(Array.from({ length: 5 }, () => publish(id, analyst, null)));
    expect(numbers.flatMap((each) => (each.ok ? each.number : [])).sort()).toEqual([1, 2, 3, 4, 5]);
  });

  test('publishes the draft that was looked at, and not what a colleague saved a second ago', async () => {
    const id = await draft();
    const looked = await findDraft(id);
    if (!looked) throw new Error('no draft');
    const stamp = stampOf(looked);
    await saveDraft({ id, draft: { ...dashboard, title: 'Half done' }, revision: 1, by: analyst });
    expect(await publish(id, analyst, stamp)).toMatchObject({
      ok: false,
      why: expect.stringContaining('has changed this draft'),
    });
    expect(await findPublished({ id })).toBeNull();
    const now = await findDraft(id);
    expect(now && (await publish(id, analyst, stampOf(now)))).toEqual({ ok: true, number: 1 });
  });

  test('is refused when one of its data sets was changed since it was looked at', async () => {
    const id = await draft();
    const looked = await findDraft(id);
    const stored = await findDataSet(ids.incidents);
    if (!looked || !stored) throw new Error('not stored');
    const definition = { ...stored.definition, noun: { one: 'event', many: 'events' } };
    await saveDataSet({ ...stored, definition, by: analyst });
    expect(await publish(id, analyst, stampOf(looked))).toMatchObject({ ok: false });
  });

  test('an empty dashboard is not published', async () => {
    const id = await draft();
    await saveDraft({ id, draft: { ...dashboard, panes: [] }, revision: 1, by: analyst });
    expect(await publish(id, analyst, null)).toMatchObject({
      ok: false,
      why: expect.stringContaining('nothing on this dashboard'),
    });
  });

  test('leaves who sees which records as it is now: a rule holds, and ends, as soon as it is saved', async () => {
    const id = await draft();
    await publish(id, analyst, null);
    const rule = async () => (await findPublished({ id }))?.dataSets.get(ids.sailings)?.rowRule;
    expect(await rule()).toBeUndefined();
    const rowRule = { field: 'vessel', test: { op: 'filled' as const } };
    const save = async (rule: { rowRule?: typeof rowRule }) => {
      const stored = await findDataSet(ids.sailings);
      if (!stored) throw new Error('the data set is gone');
      const { name, revision } = stored;
      const { rowRule: _, ...plain } = stored.definition;
      const definition = { ...plain, ...rule };
      await saveDataSet({ id: ids.sailings, name, definition, revision, by: analyst });
    };
    await save({ rowRule });
    expect(await rule()).toEqual(rowRule);
    // Nothing has to be published for it.
    const now = await findDraft(id);
    expect(now && (await isAsPublished(now))).toBe(true);
    await publish(id, analyst, null);
    await save({});
    expect(await rule()).toBeUndefined();
    // What is worked out once for a version goes by its definitions being the same.
    const [first, second] = [await findPublished({ id }), await findPublished({ id })];
    expect(first?.dataSets).toBe(second?.dataSets);
    expect(first?.dashboard).toBe(second?.dashboard);
  });

  test('knows whether readers have the draft as it is now', async () => {
    const id = await draft();
    const isNow = async (): Promise<boolean | null> => {
      const now = await findDraft(id);
      return now && isAsPublished(now);
    };
    expect(await isNow()).toBe(false);
    await publish(id, analyst, null);
    expect(await isNow()).toBe(true);
    await saveDraft({ id, draft: { ...dashboard, title: 'Another' }, revision: 1, by: analyst });
    expect(await isNow()).toBe(false);
  });
});

test('a form that is sent twice adds one', async () => {
  const id = randomUUID();
  const added = { id, deskId: desk, slug: 'twice', draft: dashboard, by: analyst };
  await Promise.all(Array.from({ length: 8 }, () => addDashboard(added)));
  await addDataSet({ id: ids.sailings, name: 'Again', definition: sailings, by: analyst });
  expect((await findDataSet(ids.sailings))?.name).toBe('Sailings');
  expect((await menuOf(desk, false)).filter((item) => item.id === id)).toHaveLength(1);
});

test('dashboards of one title that are started at once all get addresses and places of their own', async () => {
  const several = Array.from({ length: 6 }, () => ({
    id: randomUUID(),
    deskId: desk,
    slug: slugOf('Þjóðvegur & ferja!'),
    draft: dashboard,
    by: analyst,
  }));
  await Promise.all(several.map(addDashboard));
  const there = (await menuOf(desk, false)).filter(({ id }) => several.some((each) => each.id === id));
  expect(new Set(there.map(({ slug }) => slug)).size).toBe(6);
  expect(there.map(({ slug }) => slug)).toContain('þjoðvegur-ferja-2');
});

test('what uses a data set is named, with its panes', async () => {
  const users = await usersOfDataSet(ids.incidents);
  expect(users[0]).toMatchObject({ desk: 'Skerry Sound', panes: ['Its incidents'] });
});

test.each([
  null,
  7,
  {},
  { version: 99 },
  { version: '1', title: 'x' },
  { ...dashboard, panes: [{ kind: 'spell' }] },
])('a stored definition that is %j is refused, not guessed at', (raw) => {
  expect(() => migrateDashboard(raw)).toThrow();
  expect(() => migrateDataSet(raw)).toThrow();
});

test('a transaction whose connection is lost before it begins gives the connection back', async () => {
  const end = `const pg = require('pg'); const c = new pg.Client({ connectionString: process.argv[1] });
    c.connect().then(() => c.query("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'slate-glass' AND datname = current_database()")).then(() => c.end())`;
  const working = () =>
    expect
      .poll(() =>
        inTransaction((tx) => tx.execute('SELECT 1')).then(
          () => true,
          () => false,
        ),
      )
      .toBe(true);
  // More often than there are connections in the pool.
  for (let round = 0; round < 12; round += 1) {
    await working();
    // This process does not hear of it before it sends what begins the transaction.
    spawnSync(process.execPath, ['-e', end, database.url]);
    await expect(inTransaction(async (tx) => tx.execute('SELECT 2'))).rejects.toThrow();
  }
  await working();
});

test('what fails in a transaction leaves nothing of it behind', async () => {
  const name = randomUUID();
  await expect(
    inTransaction(async (tx) => {
      await tx.execute(sql`INSERT INTO desks (slug, name, zone) VALUES (${name}, ${name}, 'UTC')`);
      throw new Error('no');
    }),
  ).rejects.toThrow('no');
  expect(
    (await inTransaction((tx) => tx.execute(sql`SELECT 1 FROM desks WHERE slug = ${name}`))).rows,
  ).toEqual([]);
});
