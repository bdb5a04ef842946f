import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { Dashboard } from '#core/dashboard/schema.ts';
import { DataSet } from '#core/dataset/schema.ts';
import { discover } from '#sources/postgres/discover.ts';
import { testDatabase } from '#testing/database.ts';
import { morningBrief } from './dashboards/morning-brief.ts';
import { routePunctuality } from './dashboards/route-punctuality.ts';
import { vesselUpkeep } from './dashboards/vessel-upkeep.ts';
import { type DemoIds, demoDataSets } from './data-sets.ts';
import { crew, routes, vesselPicture, vessels, zone } from './line.ts';
import { seeded } from './random.ts';
import { daysBetween, incidentsOf, lateMinutes, sailingsOf } from './sailings.ts';
import { advanceSoundOps, fillSoundOps } from './sound-ops.ts';
import { workOrdersAt } from './work-orders.ts';

const noon = new Date('2026-11-23T12:00:00Z');
const minutes = (from: string | null, to: string | null): number =>
  (Date.parse(to ?? '') - Date.parse(from ?? '')) / 60_000;

describe('the day of the ferry line', () => {
  test('is the same every time it is asked for', () => {
    expect(sailingsOf('2026-11-23', noon)).toEqual(sailingsOf('2026-11-23', noon));
    expect(workOrdersAt(noon)).toEqual(workOrdersAt(noon));
  });

  test('unfolds: what has happened by noon has still happened by evening', () => {
    const evening = sailingsOf('2026-11-23', new Date('2026-11-23T20:00:00Z'));
    for (const [index, sailing] of sailingsOf('2026-11-23', noon).entries()) {
      const later = evening[index];
      expect(later?.departsAt).toBe(sailing.departsAt);
      if (sailing.leftAt)
        expect(later).toMatchObject({
          leftAt: sailing.leftAt,
          passengers: sailing.passengers,
          fares: sailing.fares,
        });
      if (sailing.status === 'arrived' || sailing.status === 'cancelled')
        expect(later?.status).toBe(sailing.status);
    }
  });

  test('always has sailings behind it, under way and ahead of it at noon', () => {
    const states = new Set(sailingsOf('2026-11-23', noon).map(({ status }) => status));
    for (const state of ['arrived', 'under way', 'planned'] as const) expect(states).toContain(state);
  });

  test('knows nothing of what has not happened yet', () => {
    for (const sailing of sailingsOf('2026-11-24', noon)) {
      expect([
        sailing.leftAt,
        sailing.landedAt,
        sailing.passengers,
        sailing.fares,
        sailing.delayMinutes,
      ]).toEqual([null, null, null, null, null]);
      expect(['planned', 'boarding']).toContain(sailing.status);
    }
  });

  test('has delays that are the minutes between timetable and leaving', () => {
    for (const sailing of sailingsOf('2026-11-20', noon))
      if (sailing.leftAt) expect(minutes(sailing.departsAt, sailing.leftAt)).toBe(sailing.delayMinutes);
  });

  test('has causes for late sailings only, and now and then none where there should be one', () => {
    const week = daysBetween('2026-10-01', '2026-11-20').flatMap((day) => sailingsOf(day, noon));
    const late = week.filter(({ delayMinutes }) => (delayMinutes ?? 0) > lateMinutes);
    expect(late.length).toBeGreaterThan(100);
    expect(late.some(({ cause }) => cause === null)).toBe(true);
    expect(
      week.filter(
        ({ cause, delayMinutes, status }) =>
          cause && (delayMinutes ?? 0) <= lateMinutes && status !== 'cancelled',
      ),
    ).toEqual([]);
  });

  test('departs by the clock on the wall, on both sides of a clock change', () => {
    const first = (day: string): string => sailingsOf(day, noon)[0]?.departsAt.slice(11, 16) ?? '';
    expect([first('2026-10-23'), first('2026-10-26')]).toEqual(['05:10', '06:10']);
  });

  test('never gives two sailings one number', () => {
    const all = daysBetween('2026-11-01', '2026-11-30')
      .flatMap((day) => sailingsOf(day, noon))
      .map(({ id }) => id);
    expect(new Set(all).size).toBe(all.length);
  });

  test('reports incidents only once they have happened', () => {
    const reported = sailingsOf('2026-11-23', noon).flatMap((sailing) => incidentsOf(sailing, noon));
    for (const { reportedAt } of reported) expect(Date.parse(reportedAt)).toBeLessThanOrEqual(noon.getTime());
  });
});

describe('what the line owns', () => {
  test('sails between places and with vessels that there are', () => {
    for (const route of routes)
      for (const id of route.vessels) expect(vessels.some((vessel) => vessel.id === id)).toBe(true);
  });

  test('has pictures that are SVG of our own, without scripts', () => {
    for (const vessel of vessels) {
      expect(vesselPicture(vessel)).toMatch(/^<svg [^>]*>.*<\/svg>$/s);
      expect(vesselPicture(vessel)).not.toMatch(/script|href|on\w+=/i);
    }
  });

  test('has people whose addresses lead nowhere and whose staff numbers are numbers kept as text', () => {
    expect(crew).toHaveLength(60);
    for (const { email, staffNo } of crew) {
      expect(email).toMatch(/@skerry\.example$/);
      expect(staffNo).toMatch(/^\d+$/);
    }
    expect(new Set(crew.map(({ staffNo }) => staffNo)).size).toBe(60);
  });

  test('has work that is overdue, and estimates that are not numbers', () => {
    const orders = workOrdersAt(noon);
    expect(orders.some(({ status, dueOn }) => status !== 'done' && dueOn < '2026-11-23')).toBe(true);
    expect(orders.some(({ estimate }) => estimate === 'n/a')).toBe(true);
    for (const { status, doneAt } of orders) expect(doneAt !== null).toBe(status === 'done');
  });
});

test('the generator is even, and picks from all there is', () => {
  const random = seeded(1);
  const counts = Array.from({ length: 4 }, () => 0);
  for (let n = 0; n < 4000; n += 1) {
    const at = random.between(0, 3);
    counts[at] = (counts[at] ?? 0) + 1;
  }
  for (const count of counts) expect(Math.abs(count - 1000)).toBeLessThan(120);
  expect(['a', 'b']).toContain(random.pick(['a', 'b']));
});

describe('the demo database', () => {
  let database: Awaited<ReturnType<typeof testDatabase>>;
  beforeAll(async () => {
    database = await testDatabase();
    await fillSoundOps(database.client, noon);
  });
  afterAll(async () => {
    await database.client.end();
  });
  const number = async (text: string): Promise<number> =>
    Number((await database.client.query(text)).rows[0].n);

  test('holds eighteen months of sailings and two weeks of timetable', async () => {
    expect(await number('SELECT count(*) AS n FROM sailings')).toBeGreaterThan(40_000);
    expect(
      await number(
        `SELECT (max(departs_at) AT TIME ZONE '${zone}')::date - date '2026-11-23' AS n FROM sailings`,
      ),
    ).toBe(14);
  });

  test('moves with the clock: hours later, sailings have left and landed, and none is lost', async () => {
    const before = await number("SELECT count(*) AS n FROM sailings WHERE status = 'arrived'");
    const all = await number('SELECT count(*) AS n FROM sailings');
    await advanceSoundOps(database.client, new Date('2026-11-23T18:00:00Z'), 0);
    expect(await number("SELECT count(*) AS n FROM sailings WHERE status = 'arrived'")).toBeGreaterThan(
      before,
    );
    expect(await number('SELECT count(*) AS n FROM sailings')).toBe(all);
  });

  test('started again days later catches up: no day stays unfinished, and there is a timetable ahead', async () => {
    await advanceSoundOps(database.client, new Date('2026-11-27T12:00:00Z'));
    expect(
      await number(
        "SELECT count(*) AS n FROM sailings WHERE departs_at < '2026-11-26' AND status IN ('planned', 'boarding', 'under way', 'late')",
      ),
    ).toBe(0);
    expect(
      await number("SELECT count(*) AS n FROM sailings WHERE departs_at > '2026-12-10'"),
    ).toBeGreaterThan(50);
  });

  test('ships definitions that are valid, and dashboards that every reader can fill', async () => {
    const ids: DemoIds = {
      source: randomUUID(),
      sailings: randomUUID(),
      incidents: randomUUID(),
      orders: randomUUID(),
      waiting: randomUUID(),
    };
    const sets = demoDataSets(ids, await discover(database.address));
    for (const { definition } of sets) expect(DataSet.safeParse(definition).error).toBeUndefined();
    const known = new Map(sets.map(({ id, definition }) => [id, definition]));
    for (const dashboard of [morningBrief(ids), routePunctuality(ids), vesselUpkeep(ids)]) {
      expect(Dashboard.safeParse(dashboard).error).toBeUndefined();
      expect(checkFlow(dashboard, known)).toEqual([]);
    }
  });
});
