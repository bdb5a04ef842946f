import { setTimeout as wait } from 'node:timers/promises';
import pg from 'pg';
import PgBoss from 'pg-boss';
import { problemOf } from '#core/value/problem/problem.ts';
import { endPools, tolerate } from '#engine/postgres/pool.ts';
import { runChecks } from '../checks/run.ts';
import { forgetFetched } from '../fetched/fetched.ts';
import { tidyCache } from '../kept/cache.ts';
import { closeColumnar } from '../kept/open.ts';
import { refresh } from '../kept/refresh.ts';
import { listen } from '../live/listen.ts';
import { settings } from '../settings.ts';
import { closeClients } from '../sources/open.ts';
import { allDataSets } from '../store/data-sets.ts';
import { closeDatabase } from '../store/database.ts';
import { forgetBatches } from '../store/intake.ts';
import { collectOrphans, leaseDue, setNext } from '../store/kept.ts';

const refreshQueue = 'refresh';
const tickMs = 5_000;
const againMs = 500;
const tidyMs = 3_600_000;
/** Kept records are checked at each refresh; live ones, which have none, this often. */
const checkMs = 600_000;
/** Refreshes that run side by side in one worker. */
const atOnce = 2;

const wordsOf = (thrown: unknown): string => problemOf(thrown, '').why;

/**
 * Queries of the queue, asked again until our own database answers: the queue ends its process when the end of a job
 * cannot be written down.
 */
const whenReachable =
  (pool: pg.Pool, signal: AbortSignal) =>
  async (text: string, values: unknown[]): Promise<pg.QueryResult> => {
    for (;;)
      try {
        return await pool.query(text, values);
      } catch (thrown) {
        if (signal.aborted || problemOf(thrown, '').code !== 'unreachable') throw thrown;
        await wait(againMs);
      }
  };

/**
 * The process that does what nobody waits for at a page: refreshes of kept records when they are due or asked for, and
 * tidying. As many can run as wanted; each refresh holds a lock of its own (see `refresh`).
 */
export async function startWorker(
  report: (line: string, about?: object) => void,
): Promise<{ stop: () => Promise<void> }> {
  const { SLATE_DATABASE } = settings();
  const stopping = new AbortController();
  const pool = new pg.Pool({ connectionString: SLATE_DATABASE, application_name: 'slate-glass-worker' });
  tolerate(pool);
  const boss = new PgBoss({ db: { executeSql: whenReachable(pool, stopping.signal) } });
  boss.on('error', (error) => report(error.message));
  await boss.start();
  await boss.createQueue(refreshQueue, {
    name: refreshQueue,
    policy: 'standard',
    retryLimit: 0,
    expireInSeconds: 6 * 3600,
  });
  /** Data sets whose refresh was cut off with our own database; due again as soon as it answers. */
  const cutOff = new Set<string>();
  for (let worker = 0; worker < atOnce; worker += 1)
    await boss.work<{ dataSet: string }>(
      refreshQueue,
      { batchSize: 1, pollingIntervalSeconds: 0.5 },
      async ([job]) => {
        if (!job) return;
        const { dataSet } = job.data;
        try {
          const refreshed = await refresh(dataSet, { signal: stopping.signal });
          report(`refreshed ${dataSet}: ${refreshed.state}`, refreshed);
        } catch (thrown) {
          // It could not even be written down that it failed.
          cutOff.add(dataSet);
          report(`refreshing ${dataSet}: ${wordsOf(thrown)}`);
        }
      },
    );
  const attempt = (doing: string, work: () => Promise<void>): Promise<void> =>
    work().catch((thrown) => report(`${doing}: ${wordsOf(thrown)}`));
  const tick = (): Promise<void> =>
    attempt('looking for what is due', async () => {
      for (const dataSet of cutOff) {
        await setNext(dataSet, new Date());
        cutOff.delete(dataSet);
      }
      for (const dataSet of await leaseDue(new Date())) await boss.send(refreshQueue, { dataSet });
    });
  const check = (): Promise<void> =>
    attempt('checking', async () => {
      for (const { id, name, definition } of await allDataSets())
        if (!definition.keep && definition.checks?.length)
          await attempt(`checking ${name}`, async () => {
            await runChecks({ id, definition, now: new Date() });
          });
    });
  const tidy = (): Promise<void> =>
    attempt('tidying', async () => {
      await forgetFetched();
      await forgetBatches();
      await collectOrphans();
      tidyCache();
    });
  const bell = await listen('slate_due', () => void tick());
  const ticking = setInterval(() => void tick(), tickMs);
  const checking = setInterval(() => void check(), checkMs);
  const tidying = setInterval(() => void tidy(), tidyMs);
  await tick();
  await tidy();
  void check();
  return {
    stop: async () => {
      clearInterval(ticking);
      clearInterval(tidying);
      clearInterval(checking);
      stopping.abort();
      await bell();
      await boss.stop({ graceful: true, timeout: 4000 });
      await pool.end();
      await closeColumnar();
      await closeClients();
      await endPools();
      await closeDatabase();
    },
  };
}
