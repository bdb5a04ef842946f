import { and, asc, eq, gt, lt, ne, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { presences } from './tables/dashboards.ts';
import { users } from './tables/people.ts';

/* Who has a draft on a page just now. A page says so every while; who has not for longer is gone. */

/** Seconds after which somebody whose page has said nothing is taken to be gone. */
const goneAfter = 50;

const since = sql`now() - make_interval(secs => ${goneAfter})`;

/** Notes that somebody has a draft on a page. Gives the names of the others who have. */
export async function noteHere(dashboardId: string, userId: string): Promise<string[]> {
  const now = { seenAt: sql`now()` };
  await database()
    .insert(presences)
    .values({ dashboardId, userId, ...now })
    .onConflictDoUpdate({ target: [presences.dashboardId, presences.userId], set: now });
  const others = await database()
    .select({ name: users.name })
    .from(presences)
    .innerJoin(users, eq(users.id, presences.userId))
    .where(
      and(eq(presences.dashboardId, dashboardId), ne(presences.userId, userId), gt(presences.seenAt, since)),
    )
    .orderBy(asc(users.name));
  return others.map(({ name }) => name);
}

/** Notes that somebody has gone on from a draft; those who left without a word are forgotten with them. */
export async function noteGone(dashboardId: string, userId: string): Promise<void> {
  await database()
    .delete(presences)
    .where(
      sql`(${presences.dashboardId} = ${dashboardId} AND ${presences.userId} = ${userId}) OR ${lt(presences.seenAt, since)}`,
    );
}
