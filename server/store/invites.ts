import { randomBytes } from 'node:crypto';
import { and, asc, eq, gt, inArray, lt } from 'drizzle-orm';
import { database, inTransaction } from './database.ts';
import { hashPassword } from './passwords.ts';
import { accountOf, sessionOf } from './people.ts';
import { deskRoles, desks, groupMembers, groups, invites } from './tables/desks.ts';
import { users } from './tables/people.ts';

/* Somebody is asked in by a link that is good once. The link is in no table: only its hash is. */

const daysGood = 7;

export type Invite = Pick<
  typeof invites.$inferSelect,
  'email' | 'name' | 'isAdministrator' | 'roles' | 'groups' | 'attributes'
>;

export interface OpenInvite extends Pick<Invite, 'email' | 'name'> {
  /** Names it without being its link. */
  readonly id: string;
  /** ISO 8601. */
  readonly expires: string;
}

/** Asks somebody in. Gives what goes into the link; null where the address has an account. An earlier link of the address ends. */
export async function invite(invited: Invite, by: string): Promise<string | null> {
  const token = randomBytes(24).toString('base64url');
  const email = accountOf(invited.email);
  return inTransaction(async (tx) => {
    const [somebody] = await tx.select({ id: users.id }).from(users).where(eq(users.email, email)).limit(1);
    if (somebody) return null;
    await tx.delete(invites).where(eq(invites.email, email));
    await tx.insert(invites).values({
      ...invited,
      email,
      tokenHash: sessionOf(token),
      madeBy: by,
      expiresAt: new Date(Date.now() + daysGood * 86_400_000),
    });
    return token;
  });
}

/** Invites that can still be followed, by name. */
export async function listInvites(): Promise<OpenInvite[]> {
  await database().delete(invites).where(lt(invites.expiresAt, new Date()));
  const rows = await database().select().from(invites).orderBy(asc(invites.name));
  return rows.map(({ tokenHash, email, name, expiresAt }) => ({
    id: tokenHash,
    email,
    name,
    expires: expiresAt.toISOString(),
  }));
}

export async function withdrawInvite(id: string): Promise<void> {
  await database().delete(invites).where(eq(invites.tokenHash, id));
}

/** Whom a link asks in; null where it is used, withdrawn or too old. */
export async function findInvite(token: string): Promise<Pick<Invite, 'email' | 'name'> | null> {
  const [found] = await database()
    .select({ email: invites.email, name: invites.name })
    .from(invites)
    .where(and(eq(invites.tokenHash, sessionOf(token)), gt(invites.expiresAt, new Date())))
    .limit(1);
  return found ?? null;
}

/**
 * Makes the account that a link asks in, with the roles it was given, and ends the link. Gives the account's id; null where the link was
 * used meanwhile. Desks and groups that have gone since are left out.
 */
export async function acceptInvite(
  token: string,
  { name, password }: { readonly name: string; readonly password: string },
): Promise<string | null> {
  const passwordHash = await hashPassword(password);
  return inTransaction(async (tx) => {
    const [found] = await tx
      .delete(invites)
      .where(and(eq(invites.tokenHash, sessionOf(token)), gt(invites.expiresAt, new Date())))
      .returning();
    if (!found) return null;
    const { email, isAdministrator, attributes } = found;
    const [added] = await tx
      .insert(users)
      .values({ email, name, isAdministrator, attributes, passwordHash })
      .onConflictDoNothing()
      .returning({ id: users.id });
    if (!added) return null;
    const there = new Set((await tx.select({ id: desks.id }).from(desks)).map(({ id }) => id));
    const held = Object.entries(found.roles)
      .filter(([deskId]) => there.has(deskId))
      .map(([deskId, role]) => ({ deskId, role, userId: added.id }));
    if (held.length > 0) await tx.insert(deskRoles).values(held);
    if (found.groups.length > 0) {
      const still = await tx
        .select({ groupId: groups.id })
        .from(groups)
        .where(inArray(groups.id, [...found.groups]));
      if (still.length > 0)
        await tx.insert(groupMembers).values(still.map((each) => ({ ...each, userId: added.id })));
    }
    return added.id;
  });
}
