import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { groupsOf, keptScans, recordsOf, tableOf } from '#testing/plans.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { refresh } from '../kept/refresh.ts';
import { addDataSet } from '../store/data-sets.ts';
import { takeTurn } from '../turns/in-turn.ts';
import { answerCounts } from './answers.ts';
import * as here from './here.ts';
import { countRecords, runPlan, streamRecords } from './run.ts';
import { serveRecords } from './serve.ts';

/* What the web processes ask of the one that they share is what it would be if each asked by itself. */

const folder = mkdtempSync(path.join(tmpdir(), 'slate-records-'));
const socket = path.join(folder, 'socket');
const doing = 'testing';
const fields: DataSet['fields'] = [
  { name: 'id', type: 'integer' },
  { name: 'generation', type: 'text' },
];
const columns = fields.map(({ name, type }) => ({ column: name, name, type }));
const records = 3000;

let kept: KeptTest;
let stop: () => Promise<void>;
let live: Relation;
let held: Relation;
let sleeping: Relation;

beforeAll(async () => {
  process.env.SLATE_RECORDS = socket;
  stop = await serveRecords(socket);
  kept = await keptTest();
  await kept.gates.query(
    `CREATE TABLE scans AS SELECT n AS id, CASE n % 4 WHEN 0 THEN NULL WHEN 1 THEN E'line\\none "quoted" \\u2028 ⛴️' WHEN 2 THEN '' ELSE n::text END AS generation FROM generate_series(1::bigint, ${records}) AS n`,
  );
  const id = randomUUID();
  const definition = keptScans(kept.source, 'scans', fields, {
    mode: { kind: 'replace' },
    schedule: { kind: 'by hand' },
  });
  await addDataSet({ id, name: 'scans', by: null, definition });
  expect(await refresh(id)).toMatchObject({ state: 'done', kept: records });
  live = { source: kept.source, inputs: {}, fields, request: tableOf('scans', fields) };
  sleeping = {
    ...live,
    request: { kind: 'sql', columns, text: 'SELECT id, pg_sleep(30)::text AS generation FROM scans LIMIT 1' },
  };
  held = { source: kept.source, inputs: {}, fields, request: { kind: 'kept', name: id } };
});
afterAll(async () => {
  await stop();
  await kept.close();
  rmSync(folder, { recursive: true, force: true });
});

/** How many questions that take long are under way at the source. */
async function asleep(): Promise<number> {
  const { rows } = await kept.gates.query(
    `SELECT count(*)::int AS n FROM pg_stat_activity WHERE query LIKE '%pg_sleep(30)%' AND state = 'active' AND pid <> pg_backend_pid() AND datname = current_database()`,
  );
  return rows[0].n;
}

const all = (from: Relation) =>
  recordsOf(from, { fields: ['id', 'generation'], order: [{ by: 'id' }], limit: 50 });

async function streamed(
  ask: typeof streamRecords,
  from: Relation,
  pause = 0,
): Promise<{ found: Cell[][]; pieces: number }> {
  const found: Cell[][] = [];
  let pieces = 0;
  await ask({ ...all(from), limit: Number.MAX_SAFE_INTEGER }, { doing }, async (some) => {
    found.push(...some);
    pieces += 1;
    if (pause > 0) await wait(pause);
  });
  return { found, pieces };
}

test('records, counts and whole streams are the same, whoever asks', async () => {
  for (const from of [live, held]) {
    expect((await runPlan(all(from), { doing })).records).toEqual(
      (await here.runPlan(all(from), { doing })).records,
    );
    expect(await countRecords(all(from), { doing })).toBe(String(records));
    const { found } = await streamed(streamRecords, from, 1);
    expect(found).toHaveLength(records);
    expect(found).toEqual((await streamed(here.streamRecords, from)).found);
  }
});

test('what several processes ask of kept records is worked out once', async () => {
  const plan = groupsOf(held, { where: { field: 'id', test: { op: 'above', value: '17' } } });
  const before = answerCounts().engineRuns;
  const answers = await Promise.all(Array.from({ length: 20 }, () => runPlan(plan, { doing })));
  expect(answers.map(({ records: found }) => String(found[0]?.[0]))).toEqual(
    Array.from({ length: 20 }, () => String(records - 17)),
  );
  expect(answerCounts().engineRuns - before).toBe(1);
});

test('what fails is told in the words that it fails with', async () => {
  const gone = { ...live, request: tableOf('gone', fields) };
  const why = async (ask: typeof runPlan) =>
    ask(all(gone), { doing }).then(
      () => null,
      (thrown: unknown) => problemOf(thrown, doing),
    );
  const problem = await why(runPlan);
  expect(problem?.why).toContain('gone');
  expect(problem).toEqual(await why(here.runPlan));
  await expect(streamed(streamRecords, gone)).rejects.toThrow('gone');
});

test('a stream that fails on its way says so, and never ends as if that were all', async () => {
  const failing: Relation = {
    ...live,
    request: {
      kind: 'sql',
      columns,
      text: `SELECT id, CASE WHEN id < ${records} THEN 'fine' ELSE (1 / (id - ${records}))::text END AS generation FROM scans ORDER BY id`,
    },
  };
  let came = 0;
  const ended = streamRecords(
    { ...all(failing), order: [], limit: Number.MAX_SAFE_INTEGER },
    { doing },
    async (some) => {
      came += some.length;
    },
  );
  await expect(ended).rejects.toThrow('division by zero');
  expect(came).toBeLessThan(records);
});

test('who leaves stops what was asked at the source', async () => {
  const leave = new AbortController();
  const ended = runPlan(all(sleeping), { doing, signal: leave.signal });
  ended.catch(() => undefined);
  await expect.poll(asleep).toBe(1);
  leave.abort();
  await expect(ended).rejects.toThrow();
  await expect.poll(asleep).toBe(0);
});

test('while it is started again those who ask wait for it; what it was doing is asked once more, and then told to be tried again', async () => {
  const leave = await takeTurn('download', 'a');
  await stop();
  const early = runPlan(all(held), { doing });
  await wait(200);
  stop = await serveRecords(socket);
  expect((await early).records).toHaveLength(50);
  leave();
  const lost = runPlan(all(sleeping), { doing });
  lost.catch(() => undefined);
  for (const _ of ['first', 'second']) {
    await expect.poll(asleep).toBe(1);
    await stop();
    await expect.poll(asleep).toBe(0);
    stop = await serveRecords(socket);
  }
  await expect(lost).rejects.toThrow('being started again');
});

test('turns are counted for all processes together, and end with whoever holds them', async () => {
  const [first, second] = [new AbortController(), new AbortController()];
  const leave = await takeTurn('download', 'b', first.signal);
  // Whoever leaves in the middle may still be writing.
  first.abort();
  const waiting = takeTurn('download', 'b', second.signal);
  const third = takeTurn('download', 'b');
  await wait(50);
  await expect(takeTurn('download', 'b')).rejects.toThrow('3 downloads of yours');
  second.abort();
  await expect(waiting).rejects.toThrow();
  leave();
  (await third)();
  await expect.poll(async () => (await takeTurn('download', 'b')) !== null).toBe(true);
});
