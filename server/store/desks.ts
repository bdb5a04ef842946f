import { asc, count, eq, sql } from 'drizzle-orm';
import { freeName } from '#core/value/field/free-name.ts';
import { database, inTransaction } from './database.ts';
import { dashboards } from './tables/dashboards.ts';
import { type DeskRole, deskRoles, desks, groupRoles, groups } from './tables/desks.ts';
import { users } from './tables/people.ts';

export type Desk = Pick<typeof desks.$inferSelect, 'id' | 'slug' | 'name' | 'zone' | 'accent'>;

export const deskOf = {
  id: desks.id,
  slug: desks.slug,
  name: desks.name,
  zone: desks.zone,
  accent: desks.accent,
};

/** Every desk, in the order that administrators gave them. */
export const listDesks = (): Promise<Desk[]> =>
  database().select(deskOf).from(desks).orderBy(asc(desks.position), asc(desks.madeAt));

export async function findDesk(slug: string): Promise<Desk | null> {
  const [desk] = await database().select(deskOf).from(desks).where(eq(desks.slug, slug)).limit(1);
  return desk ?? null;
}

/** The name of a desk in addresses. */
export const slugOf = (name: string): string =>
  name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60) || 'desk';

/** Adds a desk after the others. Where its name in addresses is taken, it gets a number. */
export const addDesk = (added: { name: string; zone: string; slug?: string }): Promise<Desk> =>
  inTransaction(async (tx) => {
    await tx.execute(sql`LOCK TABLE ${desks} IN SHARE ROW EXCLUSIVE MODE`);
    const there = await tx.select({ slug: desks.slug, position: desks.position }).from(desks);
    const taken = new Set(there.map(({ slug }) => slug));
    const [desk] = await tx
      .insert(desks)
      .values({
        name: added.name,
        zone: added.zone,
        slug: freeName(added.slug ?? slugOf(added.name), (slug) => taken.has(slug), '-'),
        position: Math.max(0, ...there.map(({ position }) => position)) + 1,
      })
      .returning(deskOf);
    if (!desk) throw new Error('the desk was not added');
    return desk;
  });

export interface DeskRow extends Desk {
  readonly isOpen: boolean;
  readonly dashboards: number;
  readonly people: number;
}

/** Desks with how much stands on them and how many people hold a role of their own there. */
export const listDeskRows = (): Promise<DeskRow[]> =>
  database()
    .select({
      ...deskOf,
      isOpen: desks.isOpen,
      dashboards: sql<number>`(SELECT count(*)::int FROM dashboards b WHERE b.desk_id = desks.id)`,
      people: sql<number>`(SELECT count(*)::int FROM desk_roles r WHERE r.desk_id = desks.id)`,
    })
    .from(desks)
    .orderBy(asc(desks.position), asc(desks.madeAt));

export interface Holder {
  readonly id: string;
  readonly name: string;
  readonly role: DeskRole;
}

/** A desk as administrators see it: its settings, and who holds a role on it. */
export interface DeskSettings extends Desk {
  readonly isOpen: boolean;
  readonly publicLinks: boolean;
  readonly people: readonly Holder[];
  readonly groups: readonly Holder[];
}

export async function deskSettings(slug: string): Promise<DeskSettings | null> {
  const [desk] = await database()
    .select({ ...deskOf, isOpen: desks.isOpen, publicLinks: desks.publicLinks })
    .from(desks)
    .where(eq(desks.slug, slug))
    .limit(1);
  if (!desk) return null;
  const [people, grouped] = await Promise.all([
    database()
      .select({ id: users.id, name: users.name, role: deskRoles.role })
      .from(deskRoles)
      .innerJoin(users, eq(users.id, deskRoles.userId))
      .where(eq(deskRoles.deskId, desk.id))
      .orderBy(asc(users.name)),
    database()
      .select({ id: groups.id, name: groups.name, role: groupRoles.role })
      .from(groupRoles)
      .innerJoin(groups, eq(groups.id, groupRoles.groupId))
      .where(eq(groupRoles.deskId, desk.id))
      .orderBy(asc(groups.name)),
  ]);
  return { ...desk, people, groups: grouped };
}

/** Changes what a desk is called, its zone, its colour, who reads it beside those with a role, and whether links may show it to everybody. */
export async function changeDesk(
  id: string,
  change: Pick<typeof desks.$inferSelect, 'name' | 'zone' | 'accent' | 'isOpen' | 'publicLinks'>,
): Promise<void> {
  await database().update(desks).set(change).where(eq(desks.id, id));
}

/** Removes a desk on which no dashboard stands. False where there is one. */
export const removeDesk = (id: string): Promise<boolean> =>
  inTransaction(async (tx) => {
    await tx.select({ id: desks.id }).from(desks).where(eq(desks.id, id)).for('update');
    const [there] = await tx.select({ of: count() }).from(dashboards).where(eq(dashboards.deskId, id));
    if (!there || there.of > 0) return false;
    await tx.delete(desks).where(eq(desks.id, id));
    return true;
  });

/** Puts desks into the order of their ids; those that are not named stay behind them. */
export async function orderDesks(ids: readonly string[]): Promise<void> {
  await inTransaction(async (tx) => {
    for (const [position, id] of ids.entries())
      await tx
        .update(desks)
        .set({ position: position + 1 })
        .where(eq(desks.id, id));
  });
}

/** Puts the dashboards of a desk into an order, each under the words of its group. What is not the desk's is left alone. */
export async function arrangeMenu(
  deskId: string,
  menu: readonly { readonly id: string; readonly group: string }[],
): Promise<void> {
  await inTransaction(async (tx) => {
    await tx.select({ id: desks.id }).from(desks).where(eq(desks.id, deskId)).for('update');
    for (const [position, { id, group }] of menu.entries())
      await tx
        .update(dashboards)
        .set({ position: position + 1, menuGroup: group })
        .where(sql`${dashboards.id} = ${id} AND ${dashboards.deskId} = ${deskId}`);
  });
}
