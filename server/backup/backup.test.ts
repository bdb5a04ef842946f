import { randomBytes, randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { testDatabase } from '#testing/database.ts';
import { postgresPrograms } from '../../scripts/cluster.mjs';

/* Two installations of one process, one after the other: each has modules of its own, which read their settings again. */

const folder = mkdtempSync(path.join(tmpdir(), 'slate-backup-test-'));
const file = path.join(folder, 'all.slate');
const passphrase = 'high water at noon';
// Long enough to stand in no bytes by chance.
const secrets = { read: 'tide-table', change: 'ebb of the spring tide' };
const databases: Awaited<ReturnType<typeof testDatabase>>[] = [];
const ids = { source: randomUUID(), una: '' };

/** The modules of an installation with a database and a key file of its own. */
async function installation(database: Awaited<ReturnType<typeof testDatabase>>, key = `${randomUUID()}.key`) {
  vi.resetModules();
  process.env.SLATE_DATABASE = database.url;
  process.env.SLATE_POSTGRES_PROGRAMS = postgresPrograms() ?? '';
  process.env.SLATE_KEY = '';
  process.env.SLATE_KEY_FILE = path.join(folder, key);
  try {
    statSync(process.env.SLATE_KEY_FILE);
  } catch {
    writeFileSync(process.env.SLATE_KEY_FILE, randomBytes(32).toString('base64'), { mode: 0o600 });
  }
  const [backup, rekey, store, people, sources, twoStep, secretsOf] = await Promise.all([
    import('./backup.ts'),
    import('./rekey.ts'),
    import('../store/database.ts'),
    import('../store/people.ts'),
    import('../store/sources.ts'),
    import('../people/two-step.ts'),
    import('../secrets.ts'),
  ]);
  return { ...backup, ...rekey, ...store, ...people, ...sources, ...twoStep, ...secretsOf };
}

async function newDatabase() {
  const database = await testDatabase();
  databases.push(database);
  return database;
}

/** Every record of every table, as text. */
async function everything(database: Awaited<ReturnType<typeof testDatabase>>): Promise<string> {
  const { rows: tables } = await database.client.query(
    "SELECT format('%I.%I', schemaname, tablename) AS name FROM pg_tables WHERE schemaname IN ('public', 'drizzle') ORDER BY 1",
  );
  const all: string[] = [];
  for (const { name } of tables) {
    // Credentials are sealed again, and never the same text twice.
    const { rows } = await database.client.query(
      `SELECT (to_jsonb(t) - 'secret' - 'changer_secret' - 'two_step_secret')::text AS r FROM ${name} t ORDER BY 1`,
    );
    all.push(`${name}: ${rows.map(({ r }) => r).join('\n')}`);
  }
  return all.join('\n\n');
}

let first: Awaited<ReturnType<typeof testDatabase>>;
const firstKey = 'first.key';

beforeAll(async () => {
  first = await newDatabase();
  const here = await installation(first, firstKey);
  await here.migrateDatabase();
  await here.addUser({ email: 'una@skerry.example', name: 'Una ’s “Ö” \\ \t', password: 'low-water-0640' });
  ids.una = (await here.whoseSignIn('una@skerry.example', 'low-water-0640')) ?? '';
  await here.addSource({
    id: ids.source,
    name: 'Sound',
    connection: { kind: 'postgres', host: 'h', port: 5432, database: 'd', user: 'u', tls: 'off' },
    report: { facts: [], warnings: [], clockSkewMs: 0, tookMs: 1, at: '2026-11-23T12:00:00Z' },
    secret: secrets.read,
    madeBy: ids.una,
  });
  await here.setChanger(ids.source, { user: 'c', secret: secrets.change });
  // Kept records are bytes of any value.
  await first.client.query('INSERT INTO segments (hash, content, size, records) VALUES ($1, $2, $3, 1)', [
    'h',
    randomBytes(300_000),
    300_000,
  ]);
  await here.backUp(file, passphrase);
  await here.closeDatabase();
});
afterAll(async () => {
  for (const { client } of databases) await client.end();
  rmSync(folder, { recursive: true, force: true });
});

/** Whether a source's credentials open where it is. */
async function credentials(here: Awaited<ReturnType<typeof installation>>) {
  const { secret, changer } = await here.sourceWithSecret(ids.source);
  return { read: secret, change: changer?.secret };
}

describe('a backup', () => {
  test('holds no credential and no key in the clear, and is nobody else’s to read', async () => {
    const bytes = readFileSync(file);
    const key = Buffer.from(readFileSync(path.join(folder, firstKey), 'utf8'), 'base64');
    expect(bytes.includes(key)).toBe(false);
    for (const secret of Object.values(secrets)) expect(bytes.includes(secret)).toBe(false);
    expect(statSync(file).mode & 0o077).toBe(0);
  });

  test('is put back into an empty installation, to the last byte, with credentials that open under its own key', async () => {
    const second = await newDatabase();
    const there = await installation(second);
    expect(await there.restore(file, passphrase)).toBe(2);
    expect(await everything(second)).toBe(await everything(first));
    expect(await credentials(there)).toEqual(secrets);
    expect(await there.signIn('una@skerry.example', 'low-water-0640')).not.toBeNull();
    // Nothing but the key of here is left in its file.
    expect(there.currentKeys()).toHaveLength(1);
    await expect(there.restore(file, passphrase)).rejects.toThrow('there are people here already');
    // Migrations of this version, or of a later one, find what they left off at.
    await there.migrateDatabase();
    await there.closeDatabase();
  });

  test('takes nothing in under another passphrase, from half a file, or from another one', async () => {
    const third = await newDatabase();
    const there = await installation(third);
    await there.migrateDatabase();
    const before = await everything(third);
    await expect(there.restore(file, 'another passphrase')).rejects.toThrow('the passphrase is another');
    const bytes = readFileSync(file);
    for (const [name, content] of [
      ['half', bytes.subarray(0, bytes.length / 2)],
      ['nearly all', bytes.subarray(0, bytes.length - 2000)],
      ['a little', bytes.subarray(0, 700)],
      ['nothing', Buffer.alloc(0)],
      ['another', randomBytes(5000)],
      ['changed', Buffer.concat([bytes.subarray(0, 3000), randomBytes(64), bytes.subarray(3064)])],
    ] as const) {
      const other = path.join(folder, 'other');
      writeFileSync(other, content);
      await expect(there.restore(other, passphrase), name).rejects.toThrow();
      expect(await everything(third), name).toBe(before);
    }
    await there.closeDatabase();
  });

  test('is not put under whoever is at work', async () => {
    const fourth = await newDatabase();
    const there = await installation(fourth);
    await there.migrateDatabase();
    await fourth.client.query('BEGIN; LOCK TABLE desks');
    await expect(there.restore(file, passphrase)).rejects.toThrow('stop it first');
    await fourth.client.query('ROLLBACK');
    expect(await there.restore(file, passphrase)).toBe(2);
    await there.closeDatabase();
  });

  test('that cannot be written leaves no half of one', async () => {
    const here = await installation(first, firstKey);
    const nowhere = path.join(folder, 'no such folder', 'x');
    await expect(here.backUp(nowhere, passphrase)).rejects.toThrow('ENOENT');
    await here.closeDatabase();
  });
});

describe('the key', () => {
  test('is changed while others read and store credentials', async () => {
    const here = await installation(first, firstKey);
    const before = here.currentKeys()[0];
    let isOver = false;
    const readers = Array.from({ length: 3 }, async () => {
      while (!isOver) {
        expect(await credentials(here)).toEqual(secrets);
        await here.setChanger(ids.source, { user: 'c', secret: secrets.change });
      }
    });
    expect(await here.rotateKey()).toBe(2);
    isOver = true;
    await Promise.all(readers);
    expect(here.currentKeys()).toHaveLength(1);
    expect(here.currentKeys()[0]?.equals(before ?? Buffer.alloc(0))).toBe(false);
    expect(await credentials(here)).toEqual(secrets);
    await here.closeDatabase();
  });

  test('that was left half changed still opens everything, and is changed by doing it again', async () => {
    const here = await installation(first, firstKey);
    here.writeKeys([randomBytes(32), ...here.currentKeys()]);
    expect(await credentials(here)).toEqual(secrets);
    await here.rotateKey();
    expect(here.currentKeys()).toHaveLength(1);
    expect(await credentials(here)).toEqual(secrets);
    await here.closeDatabase();
  });
});
