import { asc, eq, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { dashboards } from './tables/dashboards.ts';
import { desks } from './tables/desks.ts';

/**
 * The zone in which moments are written where no desk is open: of a data set, that of the desk whose dashboards show it; of what no
 * dashboard shows, that of the desk made first. IANA name; UTC where there is no desk at all.
 */
export async function zoneOf(dataSetId?: string): Promise<string> {
  const shown =
    dataSetId === undefined ? sql`0` : sql`(${dashboards.draft}::text LIKE ${`%${dataSetId}%`})::int`;
  const [desk] = await database()
    .select({ zone: desks.zone })
    .from(desks)
    .leftJoin(dashboards, eq(dashboards.deskId, desks.id))
    .orderBy(sql`coalesce(${shown}, 0) DESC`, asc(desks.madeAt))
    .limit(1);
  return desk?.zone ?? 'UTC';
}

/** What moments of a page are written by: {@link zoneOf}, and now in ISO 8601. */
export const pageClock = async (): Promise<{ zone: string; now: string }> => ({
  zone: await zoneOf(),
  now: new Date().toISOString(),
});
