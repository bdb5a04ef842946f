import { randomBytes, randomUUID } from 'node:crypto';
import type { DataSet } from '#core/dataset/schema.ts';
import { type DemoIds, demoDataSets } from '#demo/data-sets.ts';
import { fillSoundOps } from '#demo/sound-ops.ts';
import { endPools } from '#engine/postgres/pool.ts';
import { discover } from '#sources/postgres/discover.ts';
import { closeDatabase, migrateDatabase } from '../server/store/database.ts';
import { addSource } from '../server/store/sources.ts';
import { testDatabase } from './database.ts';

/** The ferry line for tests: a real database filled as of a moment, with the demo's own definitions over it. */
export async function soundFixture(now: Date) {
  const ids: DemoIds = {
    source: randomUUID(),
    sailings: randomUUID(),
    incidents: randomUUID(),
    orders: randomUUID(),
    waiting: randomUUID(),
  };
  const [own, sound] = [await testDatabase(), await testDatabase()];
  process.env.SLATE_DATABASE = own.url;
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
  await migrateDatabase();
  await fillSoundOps(sound.client, now);
  const { password, ...connection } = sound.address;
  await addSource({
    id: ids.source,
    name: 'Sound',
    connection: { kind: 'postgres', ...connection },
    report: { facts: [], warnings: [], clockSkewMs: 0, tookMs: 0, at: now.toISOString() },
    secret: password,
    madeBy: null,
  });
  const dataSets = new Map<string, DataSet>(
    demoDataSets(ids, await discover(sound.address)).map(({ id, definition }) => [id, definition]),
  );
  return {
    ids,
    dataSets,
    client: sound.client,
    address: sound.address,
    end: async (): Promise<void> => {
      await endPools();
      await closeDatabase();
      await Promise.all([own.client.end(), sound.client.end()]);
    },
  };
}
