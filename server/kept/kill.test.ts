import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, test } from 'vitest';
import type { KeepMode } from '#core/dataset/kept/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { keptScans, wholenessOf } from '#testing/plans.ts';
import { bundled } from '../../scripts/bundle.mjs';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { runPlan } from '../records/run.ts';
import { addDataSet } from '../store/data-sets.ts';
import { refresh } from './refresh.ts';

/*
 * A worker killed (SIGKILL) at any point of a refresh: readers have the version before or the one after, whole; nothing
 * is lost, doubled or half visible; the next run succeeds.
 */

let kept: KeptTest;
const records = 20_000;
const kills = 30;

let program: string;

beforeAll(async () => {
  kept = await keptTest();
  program = await bundled('testing/refresh-forever.ts');
});
afterAll(async () => {
  rmSync(path.dirname(program), { recursive: true, force: true });
  await kept.close();
});

const fields: DataSet['fields'] = [
  { name: 'id', type: 'integer' },
  { name: 'generation', type: 'integer' },
  { name: 'changed_at', type: 'instant' },
];

async function keptSet(table: string, mode: KeepMode): Promise<string> {
  await kept.gates.query(
    `CREATE TABLE ${table} AS SELECT n AS id, 1::bigint AS generation, now() AS changed_at FROM generate_series(1, ${records}) AS n`,
  );
  const id = randomUUID();
  await addDataSet({
    id,
    name: table,
    by: null,
    definition: keptScans(kept.source, table, fields, { mode, schedule: { kind: 'by hand' } }),
  });
  return id;
}

/** How many records readers have, of how many ids and generations. */
async function seen(
  id: string,
): Promise<{ count: number; ids: number; generations: number; newest: number }> {
  const plan = wholenessOf({ source: kept.source, request: { kind: 'kept', name: id }, inputs: {}, fields });
  const [row = []] = (await runPlan(plan, { doing: 'testing' })).records;
  const [count = 0, ids = 0, generations = 0, newest = 0] = row.map(Number);
  return { count, ids, generations, newest };
}

function start(id: string): { child: ChildProcess; begin: () => Promise<void>; output: () => string } {
  const child = spawn(process.execPath, [program, id], {
    stdio: ['pipe', 'pipe', 'inherit'],
    env: process.env,
  });
  let said = '';
  const begun = new Promise<void>((resolve, reject) => {
    child.stdout?.on('data', (piece) => {
      said += String(piece);
      resolve();
    });
    child.once('exit', () => reject(new Error('it ended by itself')));
  });
  begun.catch(() => undefined);
  const begin = (): Promise<void> => {
    child.stdin?.write('begin\n');
    return begun;
  };
  return { child, begin, output: () => said };
}

// Side by side: most of it is waiting.
test.concurrent.for<[string, string, KeepMode]>([
  ['all records again', 'scan_all', { kind: 'replace' }],
  ['what changed', 'scan_changed', { kind: 'changed', since: 'changed_at' }],
])(
  'a worker killed at any point of fetching %s leaves whole versions behind, and the next run succeeds',
  { timeout: 180_000 },
  async ([, table, mode], { expect }) => {
    const id = await keptSet(table, mode);
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: records });
    let generation = 1;
    let versions = 0;
    let before = 1;
    let next = start(id);
    for (let kill = 0; kill < kills / 2; kill += 1) {
      const { child, begin, output } = next;
      next = start(id);
      await begin();
      generation += 1;
      // Every record changes, in one transaction: a version with two generations would be half visible.
      await kept.gates.query(`UPDATE ${table} SET generation = $1, changed_at = clock_timestamp()`, [
        generation,
      ]);
      // Most kills fall anywhere in a refresh; every seventh one after a refresh that surely saw the change.
      const dones = (): number => output().split('done').length - 1;
      const sure = dones() + 2;
      if (kill % 7 === 6) await expect.poll(dones, { timeout: 30_000 }).toBeGreaterThanOrEqual(sure);
      await wait(Math.floor((kill * 997) % 700));
      const ended = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGKILL');
      await ended;
      const now = await seen(id);
      expect({ ...now, newest: 0 }).toEqual({ count: records, ids: records, generations: 1, newest: 0 });
      expect(now.newest).toBeGreaterThanOrEqual(before);
      if (now.newest > before) versions += 1;
      before = now.newest;
      expect(output()).not.toContain('failed');
    }
    next.child.kill('SIGKILL');
    // The kills fell both before and after a swap, so both sides of it were seen.
    expect(versions).toBeGreaterThan(0);
    await expect.poll(async () => (await refresh(id)).state, { timeout: 10_000 }).toBe('done');
    expect(await seen(id)).toEqual({ count: records, ids: records, generations: 1, newest: generation });
  },
);
