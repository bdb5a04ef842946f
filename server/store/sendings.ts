import { and, asc, eq, isNotNull, lte, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { sendings } from './tables/dashboards.ts';
import { users } from './tables/people.ts';

export type Sending = typeof sendings.$inferSelect;

/** A sending as its page lists it. */
export interface ListedSending extends Pick<Sending, 'id' | 'name' | 'search' | 'recipients' | 'cron'> {
  readonly owner: string;
  /** ISO 8601; null where it was never sent, or is not sent any more. */
  readonly lastAt: string | null;
  readonly nextAt: string | null;
  /** Why it did not work the last time. */
  readonly problem: string | null;
}

export async function listSendings(dashboardId: string): Promise<ListedSending[]> {
  const rows = await database()
    .select({ sending: sendings, owner: users.name })
    .from(sendings)
    .innerJoin(users, eq(users.id, sendings.ownerId))
    .where(eq(sendings.dashboardId, dashboardId))
    .orderBy(asc(sendings.madeAt));
  return rows.map(({ sending: { id, name, search, recipients, cron, lastAt, nextAt, problem }, owner }) => ({
    id,
    name,
    search,
    recipients,
    cron,
    owner,
    lastAt: lastAt?.toISOString() ?? null,
    nextAt: nextAt?.toISOString() ?? null,
    problem,
  }));
}

export async function addSending(
  added: Pick<Sending, 'dashboardId' | 'ownerId' | 'name' | 'search' | 'recipients' | 'cron' | 'nextAt'>,
): Promise<void> {
  await database().insert(sendings).values(added);
}

export async function removeSending(dashboardId: string, id: string): Promise<void> {
  await database()
    .delete(sendings)
    .where(and(eq(sendings.dashboardId, dashboardId), eq(sendings.id, id)));
}

/** Has one sent at once. */
export async function sendNow(dashboardId: string, id: string): Promise<void> {
  await database()
    .update(sendings)
    .set({ nextAt: new Date(), failures: 0, sentTo: [] })
    .where(and(eq(sendings.dashboardId, dashboardId), eq(sendings.id, id)));
  await database().execute(sql`SELECT pg_notify('slate_send', '')`);
}

/** As long as one that is being sent is left alone; whoever was sending it is gone by then. */
const leaseMinutes = 30;

/** Takes on what is due, so that nobody else sends it: each is due again later, unless what became of it is noted before. */
export const leaseDueSendings = (now: Date): Promise<Sending[]> =>
  database()
    .update(sendings)
    .set({ nextAt: sql`${now.toISOString()}::timestamptz + make_interval(mins => ${leaseMinutes})` })
    .where(and(isNotNull(sendings.nextAt), lte(sendings.nextAt, now)))
    .returning();

/** Notes that somebody has got it this time, so that they do not get it twice. */
export async function noteSent(id: string, to: string): Promise<void> {
  await database()
    .update(sendings)
    .set({ sentTo: sql`${sendings.sentTo} || ${JSON.stringify([to])}::jsonb` })
    .where(eq(sendings.id, id));
}

/** Notes what became of a sending, and when it is due again. */
export async function noteSending(
  id: string,
  outcome: Pick<Sending, 'nextAt' | 'failures' | 'problem'> & { readonly isDone: boolean; readonly at: Date },
): Promise<void> {
  const { isDone, at, ...rest } = outcome;
  await database()
    .update(sendings)
    .set({ ...rest, ...(isDone ? { lastAt: at, sentTo: [] } : {}) })
    .where(eq(sendings.id, id));
}
