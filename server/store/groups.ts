import { asc, eq, or, sql } from 'drizzle-orm';
import { database, inTransaction } from './database.ts';
import { type DeskRole, groupRoles, groups } from './tables/desks.ts';

export interface Group {
  readonly id: string;
  readonly name: string;
  /** How many people are in it. */
  readonly members: number;
  /** What it is called where people sign in, which then says who is in it; null: administrators do. */
  readonly providerName: string | null;
  /** By the desk's id. */
  readonly roles: Readonly<Record<string, DeskRole>>;
}

/** Every group, by name. */
export const listGroups = (): Promise<Group[]> =>
  database()
    .select({
      id: groups.id,
      name: groups.name,
      providerName: groups.providerName,
      members: sql<number>`(SELECT count(*)::int FROM group_members m WHERE m.group_id = groups.id)`,
      roles: sql<Record<string, DeskRole>>`(SELECT coalesce(jsonb_object_agg(r.desk_id, r.role), '{}')
        FROM group_roles r WHERE r.group_id = groups.id)`,
    })
    .from(groups)
    .orderBy(asc(sql`lower(${groups.name})`));

/** Adds a group, or changes the one of an id. False where another has the name, here or where people sign in. */
export const putGroup = (
  id: string | null,
  { name, roles, providerName = null }: Pick<Group, 'name' | 'roles'> & Partial<Pick<Group, 'providerName'>>,
): Promise<boolean> =>
  inTransaction(async (tx) => {
    await tx.execute(sql`LOCK TABLE ${groups} IN SHARE ROW EXCLUSIVE MODE`);
    const there = await tx
      .select({ id: groups.id })
      .from(groups)
      .where(or(eq(groups.name, name), eq(groups.providerName, providerName ?? '')));
    if (there.some((each) => each.id !== id)) return false;
    const [put] =
      id === null
        ? await tx.insert(groups).values({ name, providerName }).returning({ id: groups.id })
        : await tx
            .update(groups)
            .set({ name, providerName })
            .where(eq(groups.id, id))
            .returning({ id: groups.id });
    if (!put) return true;
    await tx.delete(groupRoles).where(eq(groupRoles.groupId, put.id));
    const held = Object.entries(roles).map(([deskId, role]) => ({ deskId, role, groupId: put.id }));
    if (held.length > 0) await tx.insert(groupRoles).values(held);
    return true;
  });

/** Removes a group; the people who were in it stay, without what it gave them. */
export async function removeGroup(id: string): Promise<void> {
  await database().delete(groups).where(eq(groups.id, id));
}
