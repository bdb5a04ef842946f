import { spawn, spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { KeepMode } from '#core/dataset/kept/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { keptScans, tableOf, wholenessOf } from '#testing/plans.ts';
import { startCluster } from '../../scripts/cluster.mjs';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { startWorker } from '../jobs/worker.ts';
import { runPlan } from '../records/run.ts';
import { addDataSet } from '../store/data-sets.ts';
import { askForRefresh } from '../store/due.ts';
import { currentVersion } from '../store/kept.ts';
import { refreshHistory } from '../store/refreshes.ts';
import { refresh } from './refresh.ts';

/* What can happen to the machine below: its database restarted under load, and the disk of the segment cache full. */

const folder = mkdtempSync(path.join(tmpdir(), 'slate-faults-'));
chmodSync(folder, 0o755);
const settings = ['fsync=off', 'max_connections=150'];
let cluster: Awaited<ReturnType<typeof startCluster>>;
let kept: KeptTest;

beforeAll(async () => {
  cluster = await startCluster(folder, { settings });
  kept = await keptTest({ cluster: cluster.url });
  for (const client of [kept.own, kept.gates]) client.on('error', () => undefined);
});
afterAll(async () => {
  await kept.close();
  cluster.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** On a connection of its own, since those that were open before a restart are gone after it. */
async function onGates(text: string): Promise<void> {
  const client = new pg.Client({ connectionString: kept.gatesUrl });
  client.on('error', () => undefined);
  try {
    await client.connect();
    await client.query(text);
  } finally {
    await client.end().catch(() => undefined);
  }
}

const records = 20_000;
const fields: DataSet['fields'] = [
  { name: 'id', type: 'integer' },
  { name: 'generation', type: 'integer' },
];

async function keptSet(table: string, mode: KeepMode, of = fields): Promise<string> {
  const id = randomUUID();
  const definition = keptScans(kept.source, table, of, { mode, schedule: { kind: 'by hand' } });
  await addDataSet({ id, name: table, by: null, definition });
  return id;
}

/** How many records there are, of how many ids and generations, and the newest of each. */
async function counted(from: Pick<Relation, 'request'>): Promise<readonly number[]> {
  const plan = wholenessOf({ source: kept.source, inputs: {}, fields, ...from });
  const [row = []] = (await runPlan(plan, { doing: 'testing' })).records;
  return row.map(Number);
}
const keptRecords = (id: string) => ({ request: { kind: 'kept' as const, name: id } });

test('a database that is restarted under load costs nobody a record: readers have whole versions or are told why not, and the worker goes on', async () => {
  // All at once and none: a thousand records of one generation are added as the others change to it, in one transaction.
  for (const table of ['replaced', 'added'])
    await onGates(
      `CREATE TABLE ${table} AS SELECT n AS id, 1::bigint AS generation FROM generate_series(1::bigint, ${records}) AS n`,
    );
  const replaced = await keptSet('replaced', { kind: 'replace' });
  const added = await keptSet('added', { kind: 'append', since: 'id' });
  for (const id of [replaced, added]) expect(await refresh(id)).toMatchObject({ state: 'done' });
  const worker = await startWorker(() => undefined);

  let isOver = false;
  const problems: Problem[] = [];
  let answers = 0;
  const again = async (work: () => Promise<unknown>, pauseMs: number): Promise<void> => {
    while (!isOver) {
      await work().catch((thrown: unknown) => problems.push(problemOf(thrown, 'reading')));
      await wait(pauseMs);
    }
  };
  const reading = (from: Pick<Relation, 'request'>, isReplaced: boolean) => async (): Promise<void> => {
    const [count = 0, ids, generations, , last] = await counted(from);
    answers += 1;
    // Nothing missing, nothing doubled, nothing of half a transaction.
    expect.soft({ ids, last }).toEqual({ ids: count, last: count });
    expect
      .soft(isReplaced ? { count, generations } : count % 1000)
      .toEqual(isReplaced ? { count: records, generations: 1 } : 0);
  };
  const changing = async (): Promise<void> => {
    await onGates(`BEGIN; UPDATE replaced SET generation = generation + 1;
      INSERT INTO added SELECT most + n, generation + 1 FROM (SELECT max(id) AS most, max(generation) AS generation FROM added) AS before, generate_series(1, 1000) AS n;
      COMMIT`);
  };
  const load = [
    again(reading(keptRecords(replaced), true), 5),
    again(reading(keptRecords(added), false), 5),
    again(reading({ request: tableOf('replaced', fields) }, true), 5),
    again(changing, 50),
    again(() => Promise.all([replaced, added].map((id) => askForRefresh(id))), 100),
  ];
  // A second of it, or what some answers take where that is longer.
  const loaded = async (): Promise<void> => {
    const before = answers;
    await wait(1000);
    await expect.poll(() => answers, { timeout: 60_000 }).toBeGreaterThan(before + 4);
  };
  for (const mode of ['immediate', 'fast', 'immediate'] as const) {
    await loaded();
    cluster.stop(mode);
    await wait(500);
    cluster = await startCluster(folder, { settings });
  }
  await loaded();
  isOver = true;
  await Promise.all(load);

  expect(problems.length).toBeGreaterThan(0);
  // In words for a person, with no query in them.
  expect(problems.map(({ code }) => code)).not.toContain('internal');
  expect(problems.map(({ why }) => why).join('\n')).not.toMatch(/select|insert|update/i);
  const settled = (id: string, table: string) =>
    expect
      .poll(
        async () => {
          await askForRefresh(id);
          const [here, there] = [
            await counted(keptRecords(id)),
            await counted({ request: tableOf(table, fields) }),
          ];
          return here.join() === there.join();
        },
        { timeout: 30_000, interval: 500 },
      )
      .toBe(true);
  await settled(replaced, 'replaced');
  await settled(added, 'added');
  await worker.stop();
});

/** Runs the acts of `on-small-disk.ts` on a disk of this many bytes, and gives what each said. */
async function onDisk(bytes: number, id: string, limited: boolean): Promise<Record<string, string>> {
  const place = mkdtempSync(path.join(tmpdir(), 'slate-disk-'));
  const program = `exec "${process.execPath}" --import tsx testing/on-small-disk.ts ${id}`;
  // Where a disk of its own is not to be had, no file may be larger than that one would be.
  const [command, args] = limited
    ? ['bash', ['-c', `trap '' XFSZ; ulimit -f ${bytes / 1024}; ${program}`]]
    : ['unshare', ['-rm', 'sh', '-c', `mount -t tmpfs -o size=${bytes} none ${place} && ${program}`]];
  const child = spawn(command as string, args as string[], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, SLATE_CACHE: place },
  });
  let output = '';
  child.stdout?.on('data', (piece) => {
    output += String(piece);
  });
  await new Promise((resolve) => child.once('exit', resolve));
  rmSync(place, { recursive: true, force: true });
  return JSON.parse(output.trim().split('\n').at(-1) ?? '{}');
}

const mayMount = (): boolean => spawnSync('unshare', ['-rm', 'true']).status === 0;

test.each([
  ['a disk of its own', false],
  ['a limit on files', true],
])(
  'a disk of the segment cache that is full says so, leaves readers the version before, and room for it is enough (%s)',
  async (_, limited) => {
    const table = `wide_${limited}`;
    await onGates(
      `CREATE TABLE ${table} AS SELECT n AS id, md5(n::text) || md5((n + 7)::text) AS generation FROM generate_series(1::bigint, 60000) AS n`,
    );
    const wide: DataSet['fields'] = [
      { name: 'id', type: 'integer' },
      { name: 'generation', type: 'text' },
    ];
    const id = await keptSet(table, { kind: 'replace' }, wide);
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 60_000 });
    const before = (await currentVersion(id))?.id;
    const full = 'the disk of the segment cache is full';
    expect(await onDisk(1_048_576, id, limited || !mayMount())).toEqual({
      refresh: full,
      read: full,
      upload: full,
    });
    expect((await currentVersion(id))?.id).toBe(before);
    expect((await refreshHistory(id))[0]).toMatchObject({ state: 'failed', problem: { why: full } });
    expect((await counted(keptRecords(id)))[0]).toBe(60_000);
    expect(await onDisk(268_435_456, id, limited || !mayMount())).toEqual({
      refresh: 'done',
      read: '60000',
      upload: '2000000',
    });
  },
  60_000,
);
