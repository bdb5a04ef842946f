import { createHash, randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { and, eq, gt, lt, sql } from 'drizzle-orm';
import { database, inTransaction } from './database.ts';
import { deskRoles, desks, places, sessions, users } from './tables.ts';

export type Role = (typeof deskRoles.$inferSelect)['role'];
export interface User {
  readonly id: string;
  readonly email: string;
  readonly name: string;
  readonly isAdministrator: boolean;
  /** The roles that they hold, by the desk's id. */
  readonly roles: Readonly<Record<string, Role>>;
}

export const sessionSeconds = 12 * 60 * 60;
const hashOf = (token: string): string => createHash('sha256').update(token).digest('base64url');

/** argon2id with OWASP's parameters (19 MiB, 2 passes). */
const cost = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

/** So that an unknown address takes as long to refuse as a wrong password. */
const nobody = hash(randomBytes(16), cost);

/** An e-mail address as accounts are known by. */
export const accountOf = (email: string): string => email.trim().toLowerCase();

/** Whether a browser has signed in to an account before. */
export async function hasSignedInFrom(email: string, place: string): Promise<boolean> {
  const [found] = await database()
    .select({ id: users.id })
    .from(places)
    .innerJoin(users, eq(users.id, places.userId))
    .where(and(eq(places.placeHash, hashOf(place)), eq(users.email, accountOf(email))))
    .limit(1);
  return found !== undefined;
}

/** Tries a password. Returns the token for the cookie, or null. The browser is remembered as a place of the account. */
export async function signIn(email: string, password: string, place?: string): Promise<string | null> {
  const [user] = await database()
    .select()
    .from(users)
    .where(eq(users.email, accountOf(email)))
    .limit(1);
  const right = await verify(user?.passwordHash ?? (await nobody), password);
  if (!user || !right) return null;
  const token = randomBytes(32).toString('base64url');
  await database().delete(sessions).where(lt(sessions.expiresAt, new Date()));
  await database()
    .insert(sessions)
    .values({
      tokenHash: hashOf(token),
      userId: user.id,
      expiresAt: new Date(Date.now() + sessionSeconds * 1000),
    });
  if (place !== undefined)
    await database()
      .insert(places)
      .values({ placeHash: hashOf(place), userId: user.id })
      .onConflictDoUpdate({ target: [places.placeHash, places.userId], set: { seenAt: new Date() } });
  return token;
}

/** The person a session token belongs to, while it lasts. */
export async function personOf(token: string): Promise<User | null> {
  const [found] = await database()
    .select({
      id: users.id,
      email: users.email,
      name: users.name,
      isAdministrator: users.isAdministrator,
      roles: sql<
        Record<string, Role>
      >`(SELECT coalesce(jsonb_object_agg(${deskRoles.deskId}, ${deskRoles.role}), '{}')
        FROM ${deskRoles} WHERE ${deskRoles.userId} = ${users.id})`,
    })
    .from(sessions)
    .innerJoin(users, eq(users.id, sessions.userId))
    .where(and(eq(sessions.tokenHash, hashOf(token)), gt(sessions.expiresAt, new Date())))
    .limit(1);
  return found ?? null;
}

export async function signOut(token: string): Promise<void> {
  const tokenHash = hashOf(token);
  await database().delete(sessions).where(eq(sessions.tokenHash, tokenHash));
  await database().execute(sql`SELECT pg_notify('slate_signed_out', ${tokenHash})`);
}

/** What a session is told apart by where its token must not stand. */
export const sessionOf = (token: string): string => hashOf(token);

/** Whether there is anybody. */
export async function hasPeople(): Promise<boolean> {
  const [one] = await database().select({ id: users.id }).from(users).limit(1);
  return one !== undefined;
}

/** Adds the first account, which may do everything, with a desk; false where there is somebody by now. */
export async function addFirst(
  { name, email, password }: Pick<User, 'email' | 'name'> & { readonly password: string },
  desk: Pick<typeof desks.$inferSelect, 'slug' | 'name' | 'zone'>,
): Promise<boolean> {
  const passwordHash = await hash(password, cost);
  return inTransaction(async (tx) => {
    await tx.execute(sql`LOCK TABLE ${users} IN EXCLUSIVE MODE`);
    const [somebody] = await tx.select({ id: users.id }).from(users).limit(1);
    if (somebody) return false;
    await tx.insert(users).values({ email: accountOf(email), name, isAdministrator: true, passwordHash });
    await tx.insert(desks).values(desk);
    return true;
  });
}

/** Adds an account, with the roles that it holds from the start. An address that there is stays as it is. */
export async function addUser({
  email,
  name,
  password,
  isAdministrator = false,
  roles = {},
}: Pick<User, 'email' | 'name'> & Partial<User> & { readonly password: string }): Promise<void> {
  const passwordHash = await hash(password, cost);
  await inTransaction(async (tx) => {
    const [added] = await tx
      .insert(users)
      .values({ email: email.toLowerCase(), name, isAdministrator, passwordHash })
      .onConflictDoNothing()
      .returning({ id: users.id });
    const held = Object.entries(roles).map(([deskId, role]) => ({ deskId, role }));
    if (added && held.length > 0)
      await tx.insert(deskRoles).values(held.map((each) => ({ ...each, userId: added.id })));
  });
}
