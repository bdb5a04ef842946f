import { randomUUID } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Schedule } from '#core/dataset/kept/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { followersOf } from '#core/lineage/reach.ts';
import { keptScans } from '#testing/plans.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { changeStream, startHearing } from '../live/changes.ts';
import { dataChanged } from '../store/data-changed.ts';
import { addDataSet, findDataSet, findDataSets } from '../store/data-sets.ts';
import { askDueFollowers, askForRefresh, keptState, leaseDue, setNext } from '../store/due.ts';
import { currentVersion } from '../store/kept.ts';
import { addUser, sessionOf, signIn, signOut } from '../store/people.ts';
import { refreshHistory } from '../store/refreshes.ts';
import { startWorker, whenReachable } from './worker.ts';

let installed: KeptTest;
let worker: Awaited<ReturnType<typeof startWorker>>;
let stopHearing: () => Promise<void>;
const heard: string[] = [];

beforeAll(async () => {
  installed = await keptTest();
  await installed.gates.query('CREATE TABLE scan AS SELECT n AS id FROM generate_series(1::bigint, 25) AS n');
  stopHearing = await startHearing();
  worker = await startWorker((line) => heard.push(line));
});
afterAll(async () => {
  await stopHearing();
  await worker.stop();
  await installed.close();
});

async function keptSet(schedule: Schedule, table = 'scan'): Promise<string> {
  const id = randomUUID();
  const fields: DataSet['fields'] = [{ name: 'id', type: 'integer' }];
  const definition = keptScans(installed.source, table, fields, { mode: { kind: 'replace' }, schedule });
  await addDataSet({ id, name: table, definition, by: null });
  return id;
}
const recordsOf = async (id: string): Promise<number | undefined> => (await currentVersion(id))?.records;
const soon = { timeout: 15_000 };

test('a refresh that is asked for is done at once, and sets when the next is due', async () => {
  const id = await keptSet({ kind: 'minutes', minutes: 30 });
  await askForRefresh(id);
  await expect.poll(() => recordsOf(id), soon).toBe(25);
  await expect
    .poll(async () => Date.parse((await keptState(id))?.nextAt ?? '') - Date.now(), soon)
    .toBeGreaterThan(25 * 60_000);
});

test('what is due by its schedule is refreshed without anybody asking', async () => {
  const id = await keptSet({ kind: 'by hand' });
  await setNext(id, new Date(Date.now() - 1000));
  await expect.poll(() => recordsOf(id), soon).toBe(25);
  await expect.poll(async () => (await keptState(id))?.nextAt, soon).toBeNull();
});

test('what is sent to a source is taken in within seconds, whatever else is due', async () => {
  await installed.gates.query('CREATE TABLE sent AS SELECT 1::bigint AS id');
  const id = await keptSet({ kind: 'minutes', minutes: 30 }, 'sent');
  await askForRefresh(id);
  await expect.poll(() => recordsOf(id), soon).toBe(1);
  await installed.gates.query('INSERT INTO sent VALUES (2)');
  await askDueFollowers(installed.source);
  await expect.poll(() => recordsOf(id), { timeout: 12_000 }).toBe(2);
});

test('one that fails is in the history with why, and does not keep others from theirs', async () => {
  const broken = await keptSet({ kind: 'by hand' }, 'gone');
  const fine = await keptSet({ kind: 'by hand' });
  await Promise.all([askForRefresh(broken), askForRefresh(fine)]);
  await expect.poll(() => recordsOf(fine), soon).toBe(25);
  await expect.poll(async () => (await refreshHistory(broken))[0]?.state, soon).toBe('failed');
  expect((await refreshHistory(broken))[0]?.problem?.why).toContain('does not exist');
});

test('what is taken on is not taken on twice', async () => {
  const id = await keptSet({ kind: 'by hand' });
  await installed.own.query('UPDATE kept SET next_at = NULL');
  await installed.own.query('INSERT INTO kept (data_set_id, next_at, failures) VALUES ($1, $2, 0)', [
    id,
    new Date(Date.now() + 60_000),
  ]);
  const later = new Date(Date.now() + 120_000);
  const taken = await Promise.all([leaseDue(later), leaseDue(later)]);
  expect(taken.flat()).toEqual([id]);
});

test('what a clock made due that was ahead, and has been put back since, does not wait until then', async () => {
  const id = await keptSet({ kind: 'minutes', minutes: 30 });
  await askForRefresh(id);
  await expect.poll(() => recordsOf(id), soon).toBe(25);
  const backThen = new Date(Date.now() - 86_400_000);
  // Taken on once: what the worker of this file, whose clock is right, makes of it next is no part of that.
  expect((await leaseDue(backThen)).filter((each) => each === id)).toEqual([id]);
  await installed.own.query('UPDATE kept SET next_at = NULL');
});

/** What comes over a page's stream, until it ends. */
function listenTo(response: Response): { heard: () => string; ended: Promise<void> } {
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  let heard = '';
  const hearing = (async () => {
    for (;;) {
      const read = await reader?.read();
      if (!read || read.done) return;
      heard += read.value;
    }
  })();
  return { heard: () => heard, ended: hearing };
}
const watcher = (session = 's', userId: string = randomUUID()) => ({
  userId,
  session,
  isSignedIn: async () => true,
});

test('an open page hears of its own data sets, those made of others too, and of no others', async () => {
  const [mine, base, other] = await Promise.all(
    Array.from({ length: 3 }, () => keptSet({ kind: 'by hand' })),
  );
  if (!mine || !base || !other) throw new Error('not made');
  const derived = randomUUID();
  const definition = (await findDataSet(base))?.definition;
  if (!definition) throw new Error('not made');
  const { keep: _, ...rest } = definition;
  const made: DataSet = { ...rest, request: { kind: 'of', dataSet: base, columns: [] } };
  await addDataSet({ id: derived, name: 'made of another', definition: made, by: null });
  const world = await findDataSets([mine, derived, other]);
  const leave = new AbortController();
  const { heard, ended } = listenTo(
    await changeStream(
      [{ name: 'board', followers: followersOf([mine, derived], world) }],
      watcher(),
      leave.signal,
    ),
  );
  await askForRefresh(other);
  await expect.poll(() => recordsOf(other), soon).toBe(25);
  await askForRefresh(mine);
  await expect.poll(heard, soon).toContain(`event: changed\ndata: {"name":"board","dataSets":["${mine}"]}`);
  await askForRefresh(base);
  await expect
    .poll(heard, soon)
    .toContain(`event: changed\ndata: {"name":"board","dataSets":["${derived}"]}`);
  expect(heard()).not.toContain(other);
  // What one change does to several of them is told at once.
  await dataChanged([mine, base, other]);
  await expect
    .poll(heard, soon)
    .toContain(`event: changed\ndata: {"name":"board","dataSets":["${mine}","${derived}"]}`);
  leave.abort();
  await ended;
});

test('a page’s stream ends when its session does, and another session’s goes on', async () => {
  await addUser({ email: 'r@skerry.example', name: 'R', password: 'low-water' });
  const token = (await signIn('r@skerry.example', 'low-water')) ?? '';
  const leave = new AbortController();
  const mine = listenTo(await changeStream([], watcher(sessionOf(token)), leave.signal));
  let isOtherOver = false;
  const other = listenTo(await changeStream([], watcher('another'), leave.signal));
  void other.ended.then(() => {
    isOtherOver = true;
  });
  await signOut(token);
  await mine.ended;
  expect(isOtherOver).toBe(false);
  leave.abort();
  await other.ended;
});

test('one person cannot hold any number of streams open', async () => {
  const leave = new AbortController();
  const me = randomUUID();
  const answers = await Promise.all(
    Array.from({ length: 40 }, () => changeStream([], watcher('s', me), leave.signal)),
  );
  expect(answers.filter(({ status }) => status === 200)).toHaveLength(30);
  expect((await changeStream([], watcher(), leave.signal)).status).toBe(200);
  const ended = answers
    .filter(({ body, status }) => body && status === 200)
    .map((each) => listenTo(each).ended);
  leave.abort();
  await Promise.all(ended);
  expect((await changeStream([], watcher('s', me), new AbortController().signal)).status).toBe(200);
});

test('a job that outlasts its worker does not end the process with an error', async () => {
  const pool = new pg.Pool({ connectionString: process.env.SLATE_DATABASE });
  const ask = whenReachable(pool, AbortSignal.abort());
  expect((await ask('SELECT 1 AS one', [])).rows).toEqual([{ one: 1 }]);
  await pool.end();
  const outcome = ask('SELECT 1', []).then(
    () => 'answered',
    () => 'failed',
  );
  expect(await Promise.race([outcome, wait(200, 'unheard')])).toBe('unheard');
});
