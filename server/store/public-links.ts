import { createHash, randomBytes } from 'node:crypto';
import { and, asc, eq, gt, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { dashboards, publicLinks } from './tables/dashboards.ts';
import { desks } from './tables/desks.ts';
import { users } from './tables/people.ts';

/* Links that show a dashboard to whoever has one, without signing in. Only their hashes are kept. */

const hashOf = (token: string): string => createHash('sha256').update(token).digest('base64url');

/** A link as its page lists it. Moments are ISO 8601. */
export interface ListedLink {
  readonly id: string;
  readonly name: string;
  readonly by: string;
  readonly endsAt: string;
  /** The id of the one pane that it shows; null: all of them. */
  readonly pane: string | null;
  readonly sites: readonly string[];
}

/** Makes a link to a dashboard in a scope. Gives its token, this once. */
export async function addPublicLink(
  added: Pick<
    typeof publicLinks.$inferInsert,
    'dashboardId' | 'madeBy' | 'name' | 'search' | 'pane' | 'sites' | 'endsAt'
  >,
): Promise<string> {
  const token = randomBytes(24).toString('base64url');
  await database()
    .insert(publicLinks)
    .values({ ...added, tokenHash: hashOf(token) });
  return token;
}

/** The links to a dashboard that have not ended. */
export async function listPublicLinks(dashboardId: string): Promise<ListedLink[]> {
  const rows = await database()
    .select({
      id: publicLinks.id,
      name: publicLinks.name,
      by: users.name,
      endsAt: publicLinks.endsAt,
      pane: publicLinks.pane,
      sites: publicLinks.sites,
    })
    .from(publicLinks)
    .innerJoin(users, eq(users.id, publicLinks.madeBy))
    .where(and(eq(publicLinks.dashboardId, dashboardId), gt(publicLinks.endsAt, sql`now()`)))
    .orderBy(asc(publicLinks.endsAt));
  return rows.map((row) => ({ ...row, endsAt: row.endsAt.toISOString() }));
}

export async function removePublicLink(dashboardId: string, id: string): Promise<void> {
  await database()
    .delete(publicLinks)
    .where(and(eq(publicLinks.dashboardId, dashboardId), eq(publicLinks.id, id)));
}

/** Whether an administrator lets links to the dashboards of a desk be made. */
export async function mayHavePublicLinks(deskId: string): Promise<boolean> {
  const [desk] = await database()
    .select({ may: desks.publicLinks })
    .from(desks)
    .where(eq(desks.id, deskId))
    .limit(1);
  return desk?.may === true;
}

/** What a link leads to, and who made it. */
export interface PublicLink
  extends Pick<
    typeof publicLinks.$inferSelect,
    'dashboardId' | 'search' | 'pane' | 'sites' | 'endsAt' | 'madeBy'
  > {
  readonly deskId: string;
}

/** A link by its token; null where it has ended, or its desk lets there be none any more. */
export async function publicLinkOf(token: string): Promise<PublicLink | null> {
  const [found] = await database()
    .select({
      dashboardId: publicLinks.dashboardId,
      search: publicLinks.search,
      pane: publicLinks.pane,
      sites: publicLinks.sites,
      endsAt: publicLinks.endsAt,
      madeBy: publicLinks.madeBy,
      deskId: dashboards.deskId,
    })
    .from(publicLinks)
    .innerJoin(dashboards, eq(dashboards.id, publicLinks.dashboardId))
    .innerJoin(desks, eq(desks.id, dashboards.deskId))
    .where(
      and(
        eq(publicLinks.tokenHash, hashOf(token)),
        gt(publicLinks.endsAt, sql`now()`),
        eq(desks.publicLinks, true),
      ),
    )
    .limit(1);
  return found ?? null;
}

/** The origins of the sites that may show what a link leads to within pages of theirs. */
export const sitesOfLink = async (token: string): Promise<readonly string[]> =>
  (await publicLinkOf(token))?.sites ?? [];
