import { setMaxListeners } from 'node:events';
import { setTimeout as wait } from 'node:timers/promises';
import pg from 'pg';
import PgBoss from 'pg-boss';
import { problemOf } from '#core/value/problem/problem.ts';
import { endPools, tolerate } from '#engine/postgres/pool.ts';
import { closeColumnar } from '../kept/open.ts';
import { listen } from '../live/listen.ts';
import { serveAt } from '../own-address.ts';
import { basePath, settings } from '../settings.ts';
import { closeClients } from '../sources/open.ts';
import { closeDatabase } from '../store/database.ts';
import { findDue } from './find-due.ts';
import type { Job, Work } from './job.ts';
import { jobs } from './jobs.ts';
import { sendDashboards } from './send-dashboards.ts';

const againMs = 500;

const wordsOf = (thrown: unknown): string => problemOf(thrown, '').why;

/**
 * Queries of the queue, asked again until our own database answers: the queue ends its process when the end of a job
 * cannot be written down.
 */
export const whenReachable =
  (pool: pg.Pool, signal: AbortSignal) =>
  async (text: string, values: unknown[]): Promise<pg.QueryResult> => {
    for (;;)
      try {
        return await pool.query(text, values);
      } catch (thrown) {
        // A job that did not end in time has nobody left to tell; the queue gives it to another worker when its time is over.
        if (pool.ending) return new Promise(() => undefined);
        if (signal.aborted || problemOf(thrown, '').code !== 'unreachable') throw thrown;
        await wait(againMs);
      }
  };

/**
 * The process that does what nobody waits for at a page: the jobs of the registry, by the queue's own schedules or when they
 * are sent. As many such processes can run as wanted.
 */
export async function startWorker(
  report: (line: string, about?: object) => void,
): Promise<{ stop: () => Promise<void> }> {
  const { SLATE_DATABASE, PORT, HOST } = settings();
  // What is drawn for paper is drawn of the pages that the web processes serve.
  if (PORT > 0) serveAt(PORT, HOST, basePath());
  const stopping = new AbortController();
  // Whatever jobs do listens for the end.
  setMaxListeners(0, stopping.signal);
  const pool = new pg.Pool({ connectionString: SLATE_DATABASE, application_name: 'slate-glass-worker' });
  tolerate(pool);
  const boss = new PgBoss({ db: { executeSql: whenReachable(pool, stopping.signal) } });
  boss.on('error', (error) => report(error.message));
  await boss.start();
  const work: Work = {
    signal: stopping.signal,
    report,
    send: async ({ name }, data, at) => {
      await boss.send(name, data, at ? { startAfter: at } : {});
    },
  };
  for (const job of jobs) await take(boss, job, work);
  const bell = await listen('slate_due', (text) => void ring(text, work));
  const post = await listen('slate_send', () => {
    work.send(sendDashboards, {}).catch((thrown) => report(`sending at once: ${wordsOf(thrown)}`));
  });
  return {
    stop: async () => {
      stopping.abort();
      await Promise.all([bell(), post()]);
      await boss.stop({ graceful: true, timeout: 4000 });
      await pool.end();
      await closeColumnar();
      await closeClients();
      await endPools();
      await closeDatabase();
    },
  };
}

/** Takes on what is sent of a job, and has it done by itself where it is to be; the first time at once. */
async function take(boss: PgBoss, job: Job, work: Work): Promise<void> {
  const { name, every, atOnce, pause, within, retries } = job;
  await boss.createQueue(name, {
    name,
    policy: 'standard',
    retryLimit: retries,
    retryDelay: 1,
    expireInSeconds: within,
  });
  for (let worker = 0; worker < atOnce; worker += 1)
    await boss.work(name, { batchSize: 1, pollingIntervalSeconds: pause }, async ([sent]) => {
      if (sent) await done(job, sent.data, work);
    });
  if (every === null) return;
  await boss.schedule(name, every);
  await boss.send(name, {}, { singletonSeconds: 30 });
}

async function done(job: Job, data: unknown, work: Work): Promise<void> {
  try {
    await job.run(data, work);
  } catch (thrown) {
    work.report(`${job.name}: ${wordsOf(thrown)}`);
    throw thrown;
  }
}

/** A data set is due at a moment (ISO 8601); null where such notices may have been missed. */
async function ring(text: string | null, work: Work): Promise<void> {
  const at = new Date(text ?? 0);
  try {
    if (at.getTime() <= Date.now()) await findDue.run({}, work);
    else await work.send(findDue, {}, at);
  } catch (thrown) {
    work.report(`looking for what is due: ${wordsOf(thrown)}`);
  }
}
