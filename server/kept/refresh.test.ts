import { randomUUID } from 'node:crypto';
import { readdirSync, rmSync } from 'node:fs';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { Keep } from '#core/dataset/kept/schema.ts';
import { startOf } from '#core/dataset/outcome.ts';
import { readAsText } from '#core/dataset/read-as-text.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { GroupsPlan, RecordsPlan } from '#core/plan/plan.ts';
import { keptScans } from '#testing/plans.ts';
import { type KeptTest, keptTest } from '../../testing/kept.ts';
import { settledDataSet } from '../edit.ts';
import { countRecords, runPlan, streamRecords } from '../records/run.ts';
import { addDataSet, findDataSet, saveDataSet } from '../store/data-sets.ts';
import { database } from '../store/database.ts';
import { changesToCome, keptState, noteChangedRecords } from '../store/due.ts';
import { collectOrphans, currentVersion, storeSegment, swapVersion } from '../store/kept.ts';
import { refreshHistory } from '../store/refreshes.ts';
import { segments } from '../store/tables/data-sets.ts';
import { segmentFile } from './cache.ts';
import { refresh } from './refresh.ts';

let kept: KeptTest;
beforeAll(async () => {
  kept = await keptTest();
});
afterAll(() => kept.close());
beforeEach(async () => {
  await kept.gates.query('DROP TABLE IF EXISTS scan');
  await kept.gates.query(
    'CREATE TABLE scan (id bigint PRIMARY KEY, gate text, fare numeric, at timestamptz, changed_at timestamptz)',
  );
});

const fields: DataSet['fields'] = [
  { name: 'id', type: 'integer' },
  { name: 'gate', type: 'text' },
  { name: 'fare', type: 'decimal' },
  { name: 'at', type: 'instant' },
  { name: 'changed_at', type: 'instant' },
];
const definition = (keep: Keep): DataSet => keptScans(kept.source, 'scan', fields, keep);

const byHand = { kind: 'by hand' as const };
const replace: Keep = { mode: { kind: 'replace' }, schedule: byHand };
const changed: Keep = { mode: { kind: 'changed', since: 'changed_at' }, schedule: byHand };
const append: Keep = { mode: { kind: 'append', since: 'at' }, schedule: byHand };

async function keptSet(keep: Keep): Promise<string> {
  const id = randomUUID();
  await addDataSet({ id, name: `Scans ${id}`, definition: definition(keep), by: kept.author });
  return id;
}

const scan = (from: number, to: number, gate: string, at: string): Promise<unknown> =>
  kept.gates.query(
    `INSERT INTO scan SELECT n, $3, n * 0.1, $4, $4 FROM generate_series($1::bigint, $2::bigint) AS n
     ON CONFLICT (id) DO UPDATE SET gate = excluded.gate, fare = excluded.fare, at = excluded.at, changed_at = excluded.changed_at`,
    [from, to, gate, at],
  );

const from = (id: string) => ({
  source: kept.source,
  request: { kind: 'kept' as const, name: id },
  inputs: {},
  fields,
});
const about = { doing: 'testing' };

/** What readers see: by gate, how many and how much. */
async function seen(id: string): Promise<unknown> {
  const plan: GroupsPlan = {
    kind: 'groups',
    from: from(id),
    where: { all: [] },
    zone: 'UTC',
    by: [{ field: 'gate' }],
    measures: [
      { name: 'count', calculation: { kind: 'count' } },
      { name: 'fares', calculation: { kind: 'sum', field: 'fare' } },
    ],
    order: [],
    limit: 100,
  };
  return (await runPlan(plan, about)).records;
}
const all = (id: string): RecordsPlan => ({
  kind: 'records',
  from: from(id),
  where: { all: [] },
  zone: 'UTC',
  fields: ['id'],
  order: [],
  offset: 0,
  limit: 10,
});

describe('kept records', () => {
  test('before their first refresh say so, not nothing', async () => {
    await expect(runPlan(all(await keptSet(replace)), about)).rejects.toThrow('have not been fetched yet');
  });

  test('are known to be of before a change until a refresh that began after it', async () => {
    const id = await keptSet(replace);
    await scan(1, 5, 'north', '2026-11-23T06:40:00Z');
    expect(await refresh(id)).toMatchObject({ state: 'done' });
    expect(await changesToCome([id])).toEqual([]);
    const began = new Date();
    await new Promise((resolve) => setTimeout(resolve, 5));
    await noteChangedRecords(id);
    const [late] = await changesToCome([id, randomUUID()]);
    expect(late).toMatchObject({ id, at: expect.stringMatching(/Z$/) });
    // One that was under way by then may not have it.
    await refresh(id, { now: () => began });
    expect(await changesToCome([id])).toHaveLength(1);
    await refresh(id);
    expect(await changesToCome([id])).toEqual([]);
  });

  test('are all fetched again, to the last digit, and say when they were true', async () => {
    const id = await keptSet(replace);
    await scan(1, 5000, 'north', '2026-11-23T06:40:00Z');
    await kept.gates.query(
      "INSERT INTO scan VALUES (9007199254740993, '', 12345678901234567890.123456789, NULL, NULL)",
    );
    const at = new Date('2026-11-23T07:00:00Z');
    expect(await refresh(id, { now: () => at })).toEqual({ state: 'done', fetched: 5001, kept: 5001 });
    expect(await seen(id)).toEqual([
      ['north', '5000', '1250250'],
      [null, '1', '12345678901234567890.123456789'],
    ]);
    const { records, trueAt } = await runPlan(
      { ...all(id), fields: ['id', 'fare', 'at'], order: [{ by: 'id', descending: true }], limit: 2 },
      about,
    );
    expect(records).toEqual([
      ['9007199254740993', '12345678901234567890.123456789', null],
      ['5000', '500', '2026-11-23T06:40:00Z'],
    ]);
    expect(trueAt).toBe(at.toISOString());
    await kept.gates.query('DELETE FROM scan WHERE id > 10');
    await refresh(id);
    expect(await countRecords(all(id), about)).toBe('10');
  });

  test('of more digits than can be kept are found wherever they stand, and those at the limit are not', async () => {
    const id = await keptSet(replace);
    await scan(1, 9, 'north', '2026-11-23T06:40:00Z');
    const before = (await findDataSet(id))?.definition;
    const settle = async () => before && (await settledDataSet(randomUUID(), before));
    await kept.gates.query("INSERT INTO scan VALUES (20, 'west', $1, NULL, NULL)", [`-0.${'1'.repeat(37)}`]);
    expect(await settle()).toHaveProperty('definition');
    // Between the least and the greatest.
    await kept.gates.query("INSERT INTO scan VALUES (21, 'west', $1, NULL, NULL)", [`0.${'1'.repeat(38)}`]);
    expect(await settle()).toMatchObject({
      wrong: { why: [expect.stringContaining('“fare” has values that cannot be kept as decimal')] },
    });
  });

  test('of more digits than can be kept, or that are not numbers, are refused with why, and as text all of them are there', async () => {
    const id = await keptSet(replace);
    const long = `1${'0'.repeat(40)}.5`;
    await scan(1, 2, 'north', '2026-11-23T06:40:00Z');
    await kept.gates.query(
      "INSERT INTO scan VALUES (3, 'west', 'NaN', NULL, NULL), (4, 'west', $1, NULL, NULL)",
      [long],
    );
    // It is said when somebody is about to have them kept, before anything is fetched.
    const before = (await findDataSet(id))?.definition;
    const answer = before && (await settledDataSet(randomUUID(), before));
    expect(answer).toMatchObject({
      wrong: { why: [expect.stringContaining('“fare” has values that cannot be kept as decimal')] },
    });
    const failed = await refresh(id);
    expect(failed.state === 'failed' && failed.problem).toMatchObject({
      misfit: 'fare',
      why: expect.stringMatching(
        /^2 values of “fare” cannot be kept as decimal, which has 38 digits at most/,
      ),
    });
    const stored = await findDataSet(id);
    const next = stored && readAsText(stored.definition, 'fare', new Map());
    if (!stored || !next) throw new Error('it cannot be taken as text');
    expect(await settledDataSet(randomUUID(), next)).toHaveProperty('definition');
    await saveDataSet({ ...stored, definition: next, by: kept.author });
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 4 });
    const from = {
      source: kept.source,
      request: { kind: 'kept' as const, name: id },
      inputs: {},
      fields: startOf(next),
    };
    const plan = { ...all(id), from, fields: ['id', 'fare'] };
    const texts = [
      ['1', '0.1'],
      ['2', '0.2'],
      ['3', 'NaN'],
      ['4', long],
    ];
    expect((await runPlan(plan, about)).records).toEqual(texts);
    // The same from the source itself, which casts nothing to a number that is none.
    const live = { ...plan, from: { ...from, request: next.request } };
    expect((await runPlan(live, about)).records).toEqual(texts);
  });

  test('that are none are a table without records', async () => {
    const id = await keptSet(replace);
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 0 });
    expect(await seen(id)).toEqual([]);
    expect(await countRecords(all(id), about)).toBe('0');
  });

  test('fetched by what changed replace the record of the same key, and only the segments it is in', async () => {
    const id = await keptSet(changed);
    await scan(1, 100, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    await scan(101, 200, 'south', '2026-11-23T07:00:00Z');
    expect(await refresh(id)).toMatchObject({ fetched: 200 });
    const [first] = (await currentVersion(id))?.segments ?? [];
    await scan(150, 160, 'east', '2026-11-23T08:00:00Z');
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 200 });
    expect(await countRecords(all(id), about)).toBe('200');
    expect(await seen(id)).toEqual([
      ['east', '11', '170.5'],
      ['north', '100', '505'],
      ['south', '89', '1334.5'],
    ]);
    expect(first?.records).toBeGreaterThan(0);
  });

  test('that arrive twice, or late with a moment seen before, are neither doubled nor lost', async () => {
    const id = await keptSet(changed);
    await scan(1, 10, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    await scan(11, 12, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    await refresh(id);
    expect(await countRecords(all(id), about)).toBe('12');
  });

  test('that are added only grow, and many small segments become one', async () => {
    const id = await keptSet(append);
    for (let hour = 0; hour < 12; hour += 1) {
      await scan(
        hour * 10 + 1,
        hour * 10 + 10,
        'north',
        `2026-11-23T${String(hour).padStart(2, '0')}:00:00Z`,
      );
      await refresh(id);
    }
    const version = await currentVersion(id);
    expect(version?.segments.length).toBeLessThan(10);
    expect(await countRecords(all(id), about)).toBe('120');
  });

  test('whose decimals grow keep every digit of the old and the new', async () => {
    const id = await keptSet(changed);
    await kept.gates.query("INSERT INTO scan VALUES (1, 'a', 1.5, NULL, '2026-11-23T06:00:00Z')");
    await refresh(id);
    await kept.gates.query("INSERT INTO scan VALUES (2, 'b', 0.000000001, NULL, '2026-11-23T07:00:00Z')");
    await refresh(id);
    expect(await seen(id)).toEqual([
      ['a', '1', '1.5'],
      ['b', '1', '0.000000001'],
    ]);
  });

  test('older than the days said are let go, whichever segment they are in', async () => {
    const id = await keptSet({ ...changed, forget: { field: 'at', days: 30 } });
    await scan(1, 10, 'old', '2026-10-01T00:00:00Z');
    await scan(11, 20, 'new', '2026-11-20T00:00:00Z');
    await refresh(id, { now: () => new Date('2026-10-02T00:00:00Z') });
    expect(await countRecords(all(id), about)).toBe('20');
    await refresh(id, { now: () => new Date('2026-11-23T00:00:00Z') });
    expect(await seen(id)).toEqual([['new', '10', '15.5']]);
  });

  test('of a data set whose fields changed are all fetched again', async () => {
    const id = await keptSet(changed);
    await scan(1, 10, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    const stored = await findDataSet(id);
    if (!stored) throw new Error('gone');
    const fewer = definition(changed);
    await saveDataSet({
      ...stored,
      definition: { ...fewer, fields: fewer.fields.filter(({ name }) => name !== 'fare') },
      by: kept.author,
    });
    expect(await refresh(id)).toMatchObject({ state: 'done', fetched: 10 });
    expect((await currentVersion(id))?.fields.map(({ name }) => name)).not.toContain('fare');
  });
});

test('kept records can be handed over all of them, a few at a time', async () => {
  const id = await keptSet(replace);
  await scan(1, 30_000, 'north', '2026-11-23T06:00:00Z');
  await refresh(id);
  const seenIds: unknown[] = [];
  let batches = 0;
  await streamRecords(
    { ...all(id), order: [{ by: 'id' }], limit: Number.MAX_SAFE_INTEGER },
    about,
    async (some) => {
      batches += 1;
      expect(some.length).toBeLessThan(10_000);
      seenIds.push(...some.map(([each]) => each));
    },
  );
  expect(batches).toBeGreaterThan(2);
  expect(seenIds).toEqual(Array.from({ length: 30_000 }, (_, at) => String(at + 1)));
});

describe('a refresh that does not end well', () => {
  test('leaves readers the version before, says why in the source’s words, and waits longer each time', async () => {
    const id = await keptSet({ ...replace, schedule: { kind: 'minutes', minutes: 1 } });
    await scan(1, 10, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    await kept.gates.query('ALTER TABLE scan RENAME COLUMN gate TO door');
    const failed = await refresh(id);
    expect(failed).toMatchObject({
      state: 'failed',
      problem: { why: expect.stringContaining('gate does not exist') },
    });
    await refresh(id);
    expect(await keptState(id)).toMatchObject({ failures: 2 });
    expect(await countRecords(all(id), about)).toBe('10');
    const [latest] = await refreshHistory(id);
    expect(latest).toMatchObject({ state: 'failed', kept: null });
    await kept.gates.query('ALTER TABLE scan RENAME COLUMN door TO gate');
    await refresh(id);
    expect(await keptState(id)).toMatchObject({ failures: 0 });
  });

  test('since somebody stopped it changes nothing', async () => {
    const id = await keptSet(replace);
    await scan(1, 60_000, 'north', '2026-11-23T06:00:00Z');
    const controller = new AbortController();
    controller.abort();
    expect(await refresh(id, { signal: controller.signal })).toMatchObject({ state: 'stopped' });
    expect(await currentVersion(id)).toBeNull();
    expect(readdirSync(kept.cache).filter((name) => name.startsWith('writing-'))).toEqual([]);
  });

  test('since it lost touch with our own database changes nothing: another may be at it by then', async () => {
    const id = await keptSet(replace);
    await scan(1, 60_000, 'north', '2026-11-23T06:00:00Z');
    const going = refresh(id);
    const interrupted = async (): Promise<number> =>
      (
        await kept.own.query(
          "SELECT pg_terminate_backend(pid) FROM pg_locks WHERE locktype = 'advisory' AND database = (SELECT oid FROM pg_database WHERE datname = current_database())",
        )
      ).rowCount ?? 0;
    await expect.poll(interrupted, { interval: 5 }).toBe(1);
    expect(await going).toMatchObject({
      state: 'failed',
      problem: { why: 'Slate Glass lost touch with its own database while it ran' },
    });
    expect(await currentVersion(id)).toBeNull();
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 60_000 });
  });

  test('never takes the place of a version that came while it ran', async () => {
    const id = await keptSet(replace);
    await scan(1, 10, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    const now = await currentVersion(id);
    if (!now) throw new Error('no version');
    const late = { ...now, dataSetId: id, trueAt: new Date(), id: randomUUID() };
    for (const before of [null, randomUUID()])
      await expect(swapVersion({ ...late, before })).rejects.toThrow('newer ones meanwhile');
    expect((await currentVersion(id))?.id).toBe(now.id);
    await swapVersion({ ...late, before: now.id });
    expect((await currentVersion(id))?.id).toBe(late.id);
  });

  test('is alone: a second one of the same data set is told so', async () => {
    const id = await keptSet(replace);
    await scan(1, 60_000, 'north', '2026-11-23T06:00:00Z');
    const both = await Promise.all([refresh(id), refresh(id)]);
    expect(both.map(({ state }) => state).sort()).toEqual(['busy', 'done']);
  });
});

describe('segments', () => {
  test('are fetched from the database again when their files are gone', async () => {
    const id = await keptSet(replace);
    await scan(1, 10, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    for (const { hash } of (await currentVersion(id))?.segments ?? []) rmSync(segmentFile(hash));
    expect(await countRecords(all(id), about)).toBe('10');
  });

  test('of the same content are stored once, and those that no version names are collected in time', async () => {
    const id = await keptSet(replace);
    await scan(1, 10, 'north', '2026-11-23T06:00:00Z');
    await refresh(id);
    const [one] = (await currentVersion(id))?.segments ?? [];
    await refresh(id);
    expect((await currentVersion(id))?.segments).toEqual([one]);
    const orphan = 'f'.repeat(64);
    await storeSegment({ hash: orphan, file: '', size: 1, records: 1 }, Buffer.from('x'));
    await collectOrphans();
    const hashes = async (): Promise<string[]> =>
      (await database().select({ hash: segments.hash }).from(segments)).map(({ hash }) => hash);
    expect(await hashes()).toContain(orphan);
    await kept.own.query("UPDATE segments SET made_at = now() - interval '2 hours'");
    await kept.own.query("UPDATE kept_versions SET made_at = now() - interval '2 hours'");
    await collectOrphans();
    expect(await hashes()).not.toContain(orphan);
    expect(await hashes()).toContain(one?.hash);
    expect(await countRecords(all(id), about)).toBe('10');
  });
});
