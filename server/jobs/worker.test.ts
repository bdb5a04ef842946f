import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Schedule } from '#core/kept/schema.ts';
import { keptScans } from '#core/testing/plans.ts';
import { changeStream, startHearing } from '../live/changes.ts';
import { addDataSet } from '../store/data-sets.ts';
import * as kept from '../store/kept.ts';
import { type KeptTest, keptTest } from '../test-kept.ts';
import { startWorker } from './worker.ts';

let installed: KeptTest;
let worker: Awaited<ReturnType<typeof startWorker>>;
let stopHearing: () => Promise<void>;
const said: string[] = [];

beforeAll(async () => {
  installed = await keptTest();
  await installed.gates.query('CREATE TABLE scan AS SELECT n AS id FROM generate_series(1::bigint, 25) AS n');
  stopHearing = await startHearing();
  worker = await startWorker((line) => said.push(line));
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
const recordsOf = async (id: string): Promise<number | undefined> => (await kept.currentVersion(id))?.records;
const soon = { timeout: 15_000 };

test('a refresh that is asked for is done at once, and sets when the next is due', async () => {
  const id = await keptSet({ kind: 'minutes', minutes: 30 });
  await kept.askForRefresh(id);
  await expect.poll(() => recordsOf(id), soon).toBe(25);
  await expect
    .poll(async () => Date.parse((await kept.keptState(id))?.nextAt ?? '') - Date.now(), soon)
    .toBeGreaterThan(25 * 60_000);
});

test('what is due by its schedule is refreshed without anybody asking', async () => {
  const id = await keptSet({ kind: 'by hand' });
  await kept.setNext(id, new Date(Date.now() - 1000));
  await expect.poll(() => recordsOf(id), soon).toBe(25);
  await expect.poll(async () => (await kept.keptState(id))?.nextAt, soon).toBeNull();
});

test('one that fails is in the history with why, and does not keep others from theirs', async () => {
  const broken = await keptSet({ kind: 'by hand' }, 'gone');
  const fine = await keptSet({ kind: 'by hand' });
  await Promise.all([kept.askForRefresh(broken), kept.askForRefresh(fine)]);
  await expect.poll(() => recordsOf(fine), soon).toBe(25);
  await expect.poll(async () => (await kept.refreshHistory(broken))[0]?.state, soon).toBe('failed');
  expect((await kept.refreshHistory(broken))[0]?.problem?.why).toContain('does not exist');
});

test('what is taken on is not taken on twice', async () => {
  const id = await keptSet({ kind: 'by hand' });
  await installed.own.query('UPDATE kept SET next_at = NULL');
  await installed.own.query('INSERT INTO kept (data_set_id, next_at, failures) VALUES ($1, $2, 0)', [
    id,
    new Date(Date.now() + 60_000),
  ]);
  const later = new Date(Date.now() + 120_000);
  const taken = await Promise.all([kept.leaseDue(later), kept.leaseDue(later)]);
  expect(taken.flat()).toEqual([id]);
});

test('an open page hears of its own data sets, and of no others', async () => {
  const [mine, other] = [await keptSet({ kind: 'by hand' }), await keptSet({ kind: 'by hand' })];
  const leave = new AbortController();
  const reader = changeStream(new Set([mine]), leave.signal)
    .body?.pipeThrough(new TextDecoderStream())
    .getReader();
  let heard = '';
  const hearing = (async () => {
    for (;;) {
      const read = await reader?.read();
      if (!read || read.done) return;
      heard += read.value;
    }
  })();
  await kept.askForRefresh(other);
  await expect.poll(() => recordsOf(other), soon).toBe(25);
  await kept.askForRefresh(mine);
  await expect.poll(() => heard, soon).toContain(`event: changed\ndata: ["${mine}"]`);
  expect(heard).not.toContain(other);
  leave.abort();
  await hearing;
});
