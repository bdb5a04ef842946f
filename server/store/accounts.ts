import { and, asc, count, desc, eq, gt, ne, sql } from 'drizzle-orm';
import { database, inTransaction } from './database.ts';
import { hashPassword, isPassword } from './passwords.ts';
import { type Attributes, endSessions, heldGroups, type Role, sessionOf } from './people.ts';
import { deskRoles, groupMembers } from './tables/desks.ts';
import { sessions, users } from './tables/people.ts';

/* The accounts of an installation, as administrators and their owners look after them. */

export interface AccountRow {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly isAdministrator: boolean;
  readonly hasTwoSteps: boolean;
  /** Roles of their own, by the desk's name, and the groups that they are in. */
  readonly roles: readonly { readonly desk: string; readonly role: Role }[];
  readonly groups: readonly string[];
  readonly sessions: number;
  /** Null before the first time. */
  readonly signedInAt: Date | null;
}

/** Everybody whose name or address has `find` in it, by name. */
export const listAccounts = (
  find: string,
  { offset, limit }: { readonly offset: number; readonly limit: number },
): Promise<AccountRow[]> =>
  database()
    .select({
      id: users.id,
      name: users.name,
      email: users.email,
      isAdministrator: users.isAdministrator,
      hasTwoSteps: sql<boolean>`${users.twoStepSecret} IS NOT NULL`,
      roles: sql<
        AccountRow['roles']
      >`(SELECT coalesce(jsonb_agg(jsonb_build_object('desk', d.name, 'role', r.role)
        ORDER BY d.position), '[]') FROM desk_roles r JOIN desks d ON d.id = r.desk_id WHERE r.user_id = users.id)`,
      groups: heldGroups,
      sessions: sql<number>`(SELECT count(*)::int FROM sessions s WHERE s.user_id = users.id AND s.expires_at > now())`,
      signedInAt: users.signedInAt,
    })
    .from(users)
    .where(
      find === ''
        ? undefined
        : sql`strpos(lower(${users.name} || ' ' || ${users.email}), lower(${find})) > 0`,
    )
    .orderBy(asc(sql`lower(${users.name})`), asc(users.id))
    .offset(offset)
    .limit(limit);

export interface Account {
  readonly id: string;
  readonly name: string;
  readonly email: string;
  readonly isAdministrator: boolean;
  readonly hasTwoSteps: boolean;
  readonly attributes: Attributes;
  /** Roles of their own, by the desk's id. */
  readonly roles: Readonly<Record<string, Role>>;
  /** Ids of groups. */
  readonly groups: readonly string[];
}

export async function findAccount(id: string): Promise<Account | null> {
  const [found] = await database()
    .select({
      id: users.id,
      name: users.name,
      email: users.email,
      isAdministrator: users.isAdministrator,
      hasTwoSteps: sql<boolean>`${users.twoStepSecret} IS NOT NULL`,
      attributes: users.attributes,
      roles: sql<Record<string, Role>>`(SELECT coalesce(jsonb_object_agg(r.desk_id, r.role), '{}')
        FROM desk_roles r WHERE r.user_id = users.id)`,
      groups: sql<
        string[]
      >`(SELECT coalesce(jsonb_agg(m.group_id), '[]') FROM group_members m WHERE m.user_id = users.id)`,
    })
    .from(users)
    .where(eq(users.id, id))
    .limit(1);
  return found ?? null;
}

/** What administrators decide about somebody. */
export type AccountChange = Pick<Account, 'name' | 'isAdministrator' | 'attributes' | 'roles' | 'groups'>;

/** What a change came to: done, or why not. */
export type AccountOutcome = { readonly ok: true } | { readonly ok: false; readonly why: string };

const lastOne: AccountOutcome = {
  ok: false,
  why: 'This is the last administrator. Make somebody else one first.',
};

/** Changes somebody's name, roles, groups and attributes, all or none. The last administrator stays one. */
export const changeAccount = (id: string, change: AccountChange): Promise<AccountOutcome> =>
  inTransaction(async (tx): Promise<AccountOutcome> => {
    // One after the other, so that two administrators cannot end each other at once.
    await tx.execute(sql`LOCK TABLE ${users} IN SHARE ROW EXCLUSIVE MODE`);
    const [others] = await tx
      .select({ of: count() })
      .from(users)
      .where(and(ne(users.id, id), eq(users.isAdministrator, true)));
    if (!change.isAdministrator && others?.of === 0) return lastOne;
    const { name, isAdministrator, attributes } = change;
    await tx.update(users).set({ name, isAdministrator, attributes }).where(eq(users.id, id));
    await tx.delete(deskRoles).where(eq(deskRoles.userId, id));
    const held = Object.entries(change.roles).map(([deskId, role]) => ({ deskId, role, userId: id }));
    if (held.length > 0) await tx.insert(deskRoles).values(held);
    await tx.delete(groupMembers).where(eq(groupMembers.userId, id));
    if (change.groups.length > 0)
      await tx.insert(groupMembers).values(change.groups.map((groupId) => ({ groupId, userId: id })));
    return { ok: true };
  });

/** Removes an account with its sessions; what the person made stays. The last administrator stays. */
export async function removeAccount(id: string): Promise<AccountOutcome> {
  const outcome = await inTransaction(async (tx): Promise<AccountOutcome> => {
    await tx.execute(sql`LOCK TABLE ${users} IN SHARE ROW EXCLUSIVE MODE`);
    const [others] = await tx
      .select({ of: count() })
      .from(users)
      .where(and(ne(users.id, id), eq(users.isAdministrator, true)));
    return others?.of === 0 ? lastOne : { ok: true };
  });
  if (!outcome.ok) return outcome;
  // Whoever is still looking is told before they are gone.
  await endSessions(eq(sessions.userId, id));
  await database().delete(users).where(eq(users.id, id));
  return outcome;
}

/** Somebody's place at a browser, as they and administrators see it. */
export interface SessionRow {
  /** Names it without signing anybody in. */
  readonly id: string;
  readonly address: string;
  readonly browser: string;
  /** ISO 8601. */
  readonly begun: string;
  readonly isThis: boolean;
}

/** The sessions of somebody, latest first; `token` is that of whoever looks. */
export async function listSessions(userId: string, token: string | null): Promise<SessionRow[]> {
  const rows = await database()
    .select()
    .from(sessions)
    .where(and(eq(sessions.userId, userId), gt(sessions.expiresAt, new Date())))
    .orderBy(desc(sessions.madeAt));
  const own = token === null ? null : sessionOf(token);
  return rows.map(({ tokenHash, address, browser, madeAt }) => ({
    id: tokenHash,
    address,
    browser,
    begun: madeAt.toISOString(),
    isThis: tokenHash === own,
  }));
}

/** Ends one session of somebody, or all but the one of `except`. */
export const endSessionsOf = (
  userId: string,
  which: { readonly id: string } | { readonly except: string | null },
): Promise<void> =>
  endSessions(
    and(
      eq(sessions.userId, userId),
      'id' in which
        ? eq(sessions.tokenHash, which.id)
        : which.except === null
          ? undefined
          : ne(sessions.tokenHash, sessionOf(which.except)),
    ),
  );

/** Whether a password is somebody's. */
export async function isOwnPassword(userId: string, password: string): Promise<boolean> {
  const [user] = await database()
    .select({ hash: users.passwordHash })
    .from(users)
    .where(eq(users.id, userId));
  return user !== undefined && (await isPassword(user.hash, password));
}

/** Gives an account another password. */
export async function changePassword(userId: string, password: string): Promise<void> {
  await database()
    .update(users)
    .set({ passwordHash: await hashPassword(password) })
    .where(eq(users.id, userId));
}

export async function renameAccount(userId: string, name: string): Promise<void> {
  await database().update(users).set({ name }).where(eq(users.id, userId));
}
