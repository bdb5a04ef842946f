import { and, asc, count, eq, isNull, or, sql } from 'drizzle-orm';
import { mostSavedScopes, type SavedScope } from '#core/dashboard/scope/saved.ts';
import { database, inTransaction } from './database.ts';
import { dashboards, openingScopes, savedScopes } from './tables/dashboards.ts';

/* Scopes of dashboards that have a name. */

/** Whose a saved scope is; null: it is offered to everybody. */
type Owner = string | null;

const isOf = (owner: Owner) =>
  owner === null ? isNull(savedScopes.ownerId) : eq(savedScopes.ownerId, owner);

/** The scopes of a dashboard that somebody has saved and those that are offered to them, by name. */
export async function scopesFor(dashboardId: string, userId: string): Promise<SavedScope[]> {
  const rows = await database()
    .select({
      id: savedScopes.id,
      name: savedScopes.name,
      search: savedScopes.search,
      ownerId: savedScopes.ownerId,
      openedBy: openingScopes.userId,
    })
    .from(savedScopes)
    .leftJoin(openingScopes, and(eq(openingScopes.scopeId, savedScopes.id), eq(openingScopes.userId, userId)))
    .where(
      and(
        eq(savedScopes.dashboardId, dashboardId),
        or(isNull(savedScopes.ownerId), eq(savedScopes.ownerId, userId)),
      ),
    )
    .orderBy(asc(sql`lower(${savedScopes.name})`), asc(savedScopes.id));
  return rows.map(({ ownerId, openedBy, ...scope }) => ({
    ...scope,
    isForAll: ownerId === null,
    opens: openedBy !== null,
  }));
}

/** Saves a scope under a name; the same owner's of that name is then this one. False where there are too many already. */
export function saveScope(scope: {
  readonly dashboardId: string;
  readonly owner: Owner;
  readonly name: string;
  readonly search: string;
}): Promise<boolean> {
  const { dashboardId, owner, name, search } = scope;
  return inTransaction(async (transaction) => {
    // One after the other for a dashboard, so that no two are of one name.
    await transaction
      .select({ id: dashboards.id })
      .from(dashboards)
      .where(eq(dashboards.id, dashboardId))
      .for('update');
    const mine = and(eq(savedScopes.dashboardId, dashboardId), isOf(owner));
    const changed = await transaction
      .update(savedScopes)
      .set({ search })
      .where(and(mine, eq(savedScopes.name, name)))
      .returning({ id: savedScopes.id });
    if (changed.length > 0) return true;
    const [held] = await transaction.select({ count: count() }).from(savedScopes).where(mine);
    if ((held?.count ?? 0) >= mostSavedScopes) return false;
    await transaction.insert(savedScopes).values({ dashboardId, ownerId: owner, name, search });
    return true;
  });
}

/** Removes a scope of somebody's, or one that is offered to all. */
export async function removeScope(dashboardId: string, id: string, owners: readonly Owner[]): Promise<void> {
  await database()
    .delete(savedScopes)
    .where(
      and(
        eq(savedScopes.dashboardId, dashboardId),
        eq(savedScopes.id, id),
        or(...owners.map((each) => isOf(each))),
      ),
    );
}

/** Has a dashboard open with a scope for somebody: one of theirs, or one that is offered; null: as it begins. */
export async function openWithScope(dashboardId: string, userId: string, id: string | null): Promise<void> {
  const db = database();
  if (id === null) {
    await db
      .delete(openingScopes)
      .where(and(eq(openingScopes.dashboardId, dashboardId), eq(openingScopes.userId, userId)));
    return;
  }
  const known = (await scopesFor(dashboardId, userId)).some((each) => each.id === id);
  if (!known) return;
  await db
    .insert(openingScopes)
    .values({ userId, dashboardId, scopeId: id })
    .onConflictDoUpdate({ target: [openingScopes.userId, openingScopes.dashboardId], set: { scopeId: id } });
}

/** What the dashboards of a desk open with for somebody, as addresses from the question mark on, by dashboard. */
export async function openingAddresses(deskId: string, userId: string): Promise<Map<string, string>> {
  const rows = await database()
    .select({ dashboardId: openingScopes.dashboardId, search: savedScopes.search })
    .from(openingScopes)
    .innerJoin(savedScopes, eq(savedScopes.id, openingScopes.scopeId))
    .innerJoin(dashboards, eq(dashboards.id, openingScopes.dashboardId))
    .where(and(eq(openingScopes.userId, userId), eq(dashboards.deskId, deskId)));
  return new Map(rows.map(({ dashboardId, search }) => [dashboardId, search]));
}
