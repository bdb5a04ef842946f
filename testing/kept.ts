import { randomBytes, randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type pg from 'pg';
import { endPools } from '#engine/postgres/pool.ts';
import { closeColumnar } from '../server/kept/open.ts';
import { closeDatabase, database, migrateDatabase } from '../server/store/database.ts';
import { addSource } from '../server/store/sources.ts';
import { users } from '../server/store/tables/people.ts';
import { testDatabase } from './database.ts';

export interface KeptTest {
  /** Our own database. */
  readonly own: pg.Client;
  /** The database that records are fetched from, and the source that it is. */
  readonly gates: pg.Client;
  readonly gatesUrl: string;
  readonly source: string;
  /** An analyst. */
  readonly author: string;
  readonly cache: string;
  close(): Promise<void>;
}

/** An installation of its own for one suite, with a source to keep records of; the settings of the process lead to it. */
export async function keptTest(where: { cluster?: string } = {}): Promise<KeptTest> {
  const own = await testDatabase(where);
  const gates = await testDatabase(where);
  const cache = mkdtempSync(path.join(tmpdir(), 'slate-kept-'));
  const source = randomUUID();
  process.env.SLATE_DATABASE = own.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  process.env.SLATE_CACHE = cache;
  await migrateDatabase();
  const [user] = await database()
    .insert(users)
    .values({ email: 'analyst@skerry.example', name: 'Magnus', passwordHash: 'x' })
    .returning();
  const { password, ...connection } = gates.address;
  await addSource({
    id: source,
    name: 'Gates',
    connection: { kind: 'postgres', ...connection },
    report: { facts: [], warnings: [], clockSkewMs: 0, tookMs: 0, at: '2026-11-23T12:00:00Z' },
    secret: password,
    madeBy: null,
  });
  return {
    own: own.client,
    gates: gates.client,
    gatesUrl: gates.url,
    source,
    author: user?.id ?? '',
    cache,
    async close() {
      await closeColumnar();
      await endPools();
      await closeDatabase();
      await own.client.end();
      await gates.client.end();
      rmSync(cache, { recursive: true, force: true });
    },
  };
}
