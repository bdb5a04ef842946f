import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { Schedule } from '#core/dataset/kept/schema.ts';
import { type KeptTest, keptTest } from '#testing/kept.ts';
import { keptScans } from '#testing/plans.ts';
import { addDataSet } from '../store/data-sets.ts';
import { askDueFollowers, askForRefresh, keptState, leaseDue, noteChangedRecords } from '../store/due.ts';
import { refreshHistory } from '../store/refreshes.ts';
import { refresh } from './refresh.ts';

let kept: KeptTest;
beforeAll(async () => {
  kept = await keptTest();
});
beforeEach(() => kept.gates.query('DROP TABLE IF EXISTS scan; CREATE TABLE scan AS SELECT 1::bigint AS id'));
afterAll(() => kept.close());

const halfHourly: Schedule = { kind: 'minutes', minutes: 30 };

async function keptSet(schedule: Schedule): Promise<string> {
  const id = randomUUID();
  const definition = keptScans(kept.source, 'scan', [{ name: 'id', type: 'integer' }], {
    mode: { kind: 'replace' },
    schedule,
  });
  await addDataSet({ id, name: 'Scans', definition, by: null });
  return id;
}

/** Refreshes a data set, with something that happens while its records are being fetched. */
async function refreshWith(id: string, meanwhile: () => Promise<unknown>): Promise<void> {
  await kept.gates.query('BEGIN; LOCK TABLE scan IN ACCESS EXCLUSIVE MODE');
  const going = refresh(id);
  try {
    await expect.poll(async () => (await refreshHistory(id))[0]?.state).toBe('running');
    await meanwhile();
  } finally {
    await kept.gates.query('COMMIT');
  }
  expect((await going).state).toBe('done');
}

/** Whether the next refresh is due now. */
const isDue = async (id: string): Promise<boolean> =>
  (await leaseDue(new Date(Date.now() + 1000))).includes(id);

describe('what is asked for while records are being fetched, which may lack it, is done after', () => {
  const asks: Record<string, (id: string) => Promise<unknown>> = {
    'a refresh': askForRefresh,
    'records as they were changed': noteChangedRecords,
  };
  for (const [name, ask] of Object.entries(asks))
    test.each([halfHourly, { kind: 'by hand' } as const])(
      `${name}, where it is due $kind`,
      async (schedule) => {
        const id = await keptSet(schedule);
        await refreshWith(id, () => ask(id));
        expect(await isDue(id)).toBe(true);
        await refreshWith(id, async () => undefined);
        expect(await isDue(id)).toBe(false);
      },
    );

  test('even if it is taken on while the one before is still at it', async () => {
    const id = await keptSet(halfHourly);
    await refreshWith(id, async () => {
      await askForRefresh(id);
      expect(await isDue(id)).toBe(true);
      expect(await refresh(id)).toEqual({ state: 'busy' });
    });
    expect(await isDue(id)).toBe(true);
  });

  test.each([
    [halfHourly, true],
    [{ kind: 'by hand' } as const, false],
  ])('what is sent to its source, unless it is only refreshed by hand: $0.kind', async (schedule, due) => {
    const id = await keptSet(schedule);
    await askForRefresh(id);
    expect(await isDue(id)).toBe(true);
    await refreshWith(id, () => askDueFollowers(kept.source));
    expect(await isDue(id)).toBe(due);
  });
});

test('a refresh that fails comes again at once where another was asked for meanwhile', async () => {
  const id = await keptSet(halfHourly);
  await kept.gates.query('BEGIN; LOCK TABLE scan IN ACCESS EXCLUSIVE MODE');
  const going = refresh(id);
  await expect.poll(async () => (await refreshHistory(id))[0]?.state).toBe('running');
  await askForRefresh(id);
  await kept.gates.query('DROP TABLE scan; COMMIT');
  expect((await going).state).toBe('failed');
  expect((await keptState(id))?.failures).toBe(1);
  expect(await isDue(id)).toBe(true);
});
