import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { relationWith } from '#core/plan/relation.ts';
import type { Field } from '#core/value/field/field.ts';
import { tableDataSet } from '#testing/skerry.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { answerCounts, type Records } from '../records/answers.ts';
import { runPlan } from '../records/run.ts';
import { addDataSet, worldOf } from '../store/data-sets.ts';
import { segmentFile } from './cache.ts';
import { lastOpened } from './open.ts';
import { refresh } from './refresh.ts';

/* What a plan reads while versions are being replaced, against a real PostgreSQL and real kept records. */

let installed: KeptTest;
const ids = { gates: randomUUID(), scans: randomUUID() };
const clock = { now: new Date('2026-11-23T12:00:00Z'), zone: 'Europe/London' };

const definition = (table: string, names: readonly string[], steps: readonly Step[] = []): DataSet => {
  const fields = names.map((name): Field => ({ name, type: name === 'id' ? 'integer' : 'text' }));
  return tableDataSet(table, 'scan', fields, {
    source: installed.source,
    keep: { mode: { kind: 'replace' }, schedule: { kind: 'by hand' } },
    ...(steps.length > 0 ? { start: fields, steps: [...steps] } : {}),
  });
};

const lookUp = (mode: 'one' | 'first'): Step => ({
  kind: 'lookUp',
  id: 'gate',
  from: { dataSet: ids.gates },
  on: [{ field: 'gate', other: 'code' }],
  mode,
  take: [{ field: 'terminal', as: 'terminal' }],
  order: [{ by: 'id' }],
});

/** The scans with the terminals of their gates. */
async function looked(mode: 'one' | 'first' = 'one'): Promise<Records> {
  const scans = definition('scan', ['id', 'gate'], [lookUp(mode)]);
  const plan: RecordsPlan = {
    kind: 'records',
    from: relationWith(scans, ids.scans, {}, { world: await worldOf(scans), clock }),
    zone: clock.zone,
    where: { all: [] },
    fields: ['id', 'terminal'],
    order: [{ by: 'id' }],
    offset: 0,
    limit: 10,
  };
  return (await runPlan(plan, { doing: 'reading scans' })).records;
}

async function gatesAre(...rows: readonly (readonly [number, string, string])[]): Promise<void> {
  await installed.gates.query('DELETE FROM gate');
  for (const row of rows) await installed.gates.query('INSERT INTO gate VALUES ($1, $2, $3)', [...row]);
  expect((await refresh(ids.gates)).state).toBe('done');
}

beforeAll(async () => {
  installed = await keptTest();
  await installed.gates.query(`
    CREATE TABLE gate (id bigint PRIMARY KEY, code text, terminal text);
    CREATE TABLE scan (id bigint PRIMARY KEY, gate text);
    INSERT INTO scan VALUES (1, 'NRK-1'), (2, 'SKH-1'), (3, NULL)`);
  const add = (id: string, name: string, of: DataSet) =>
    addDataSet({ id, name, by: installed.author, definition: of });
  await add(ids.gates, 'Gates', definition('gate', ['id', 'code', 'terminal']));
  await add(ids.scans, 'Scans', definition('scan', ['id', 'gate']));
  expect((await refresh(ids.scans)).state).toBe('done');
});
beforeEach(() => gatesAre([1, 'NRK-1', 'Norrick'], [2, 'SKH-1', 'Skerryhaven']));
afterAll(() => installed.close());

describe('A plan over kept records', () => {
  const first = [
    ['1', 'Norrick'],
    ['2', 'Skerryhaven'],
    ['3', null],
  ];

  test('gives the records of a version as soon as it is the current one, though another was read before', async () => {
    expect(await looked()).toEqual(first);
    expect(lastOpened([ids.gates, ids.scans])).not.toBeNull();
    await gatesAre([1, 'NRK-1', 'Old Norrick'], [2, 'SKH-1', 'Skerryhaven']);
    expect((await looked())[0]).toEqual(['1', 'Old Norrick']);
  });

  test('is worked out once for everybody who asks it of one version, and again of the next', async () => {
    const before = answerCounts().engineRuns;
    const all = await Promise.all(Array.from({ length: 20 }, () => looked()));
    expect(all).toEqual(all.map(() => first));
    expect(answerCounts().engineRuns - before).toBe(1);
    expect(await looked()).toEqual(first);
    expect(answerCounts().engineRuns - before).toBe(1);
    await gatesAre([1, 'NRK-1', 'New Norrick'], [2, 'SKH-1', 'Skerryhaven']);
    expect((await looked())[0]).toEqual(['1', 'New Norrick']);
  });

  test('refuses two matches in a version, though each value found one in the version before', async () => {
    expect(await looked()).toEqual(first);
    await gatesAre([1, 'NRK-1', 'Norrick'], [2, 'NRK-1', 'Norrick pier'], [3, 'SKH-1', 'Skerryhaven']);
    await expect(looked()).rejects.toThrow(/one match was meant/);
    expect((await looked('first'))[0]).toEqual(['1', 'Norrick']);
  });

  test('gives what a version has that can be read, though the one read before could not be', async () => {
    await gatesAre([1, 'NRK-1', 'Norrick'], [2, 'NRK-1', 'Norrick pier']);
    await expect(looked()).rejects.toThrow(/one match was meant/);
    await gatesAre([1, 'NRK-1', 'Norrick'], [2, 'SKH-1', 'Skerryhaven']);
    expect(await looked()).toEqual(first);
  });

  test('fetches files again that have been cleared away', async () => {
    expect(await looked()).toEqual(first);
    const [version] = lastOpened([ids.gates])?.values() ?? [];
    for (const { hash } of version?.segments ?? []) rmSync(segmentFile(hash));
    expect(lastOpened([ids.gates])).toBeNull();
    expect(await looked()).toEqual(first);
  });

  test('can be stopped by whoever asked', async () => {
    expect(await looked()).toEqual(first);
    const scans = definition('scan', ['id', 'gate']);
    const from = relationWith(scans, ids.scans, {}, { world: new Map(), clock });
    const plan: RecordsPlan = {
      kind: 'records',
      from,
      zone: clock.zone,
      where: { all: [] },
      fields: ['id'],
      order: [],
      offset: 0,
      limit: 10,
    };
    await expect(
      runPlan(plan, { doing: 'reading scans', signal: AbortSignal.abort() }),
    ).rejects.toMatchObject({
      problem: { code: 'stopped' },
    });
  });
});
