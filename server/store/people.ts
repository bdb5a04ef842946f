import { createHash, randomBytes } from 'node:crypto';
import { and, eq, gt, lt, type SQL, sql } from 'drizzle-orm';
import { database, inTransaction } from './database.ts';
import { hashPassword, isPassword, nobodysHash } from './passwords.ts';
import { type DeskRole, deskRoleNames, deskRoles, desks } from './tables/desks.ts';
import { places, sessions, users } from './tables/people.ts';

export type Role = DeskRole;

/** What is known of people for row rules: values by name. */
export type Attributes = Readonly<Record<string, readonly string[]>>;

export interface User {
  readonly id: string;
  readonly email: string;
  readonly name: string;
  readonly isAdministrator: boolean;
  /** The highest role that they hold on each desk, by the desk's id: their own, a group's, or that of everybody on an open desk. */
  readonly roles: Readonly<Record<string, Role>>;
  /** The names of the groups that they are in. */
  readonly groups: readonly string[];
  readonly attributes: Attributes;
}

export const sessionSeconds = 12 * 60 * 60;
const hashOf = (token: string): string => createHash('sha256').update(token).digest('base64url');

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

/** Where somebody signs in from: the network address, and what the browser calls itself. */
export interface From {
  readonly place?: string;
  readonly address?: string;
  readonly browser?: string;
  /** We look as they do, which is no sign of them. */
  readonly isOurs?: boolean;
}

/** Tries a password. Returns whose it is, or null; an unknown address takes as long to refuse as a wrong password. */
export async function whoseSignIn(email: string, password: string): Promise<string | null> {
  const [user] = await database()
    .select({ id: users.id, passwordHash: users.passwordHash })
    .from(users)
    .where(eq(users.email, accountOf(email)))
    .limit(1);
  const isRight = await isPassword(user?.passwordHash ?? (await nobodysHash), password);
  return user && isRight ? user.id : null;
}

/** Begins a session. Returns the token for the cookie. The browser is remembered as a place of the account. */
export async function beginSession(
  userId: string,
  { place, address = '', browser = '', isOurs = false }: From = {},
): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await database().delete(sessions).where(lt(sessions.expiresAt, new Date()));
  await database()
    .insert(sessions)
    .values({
      tokenHash: hashOf(token),
      userId,
      address,
      browser: browser.slice(0, 400),
      expiresAt: new Date(Date.now() + sessionSeconds * 1000),
    });
  if (!isOurs) await database().update(users).set({ signedInAt: new Date() }).where(eq(users.id, userId));
  if (place !== undefined)
    await database()
      .insert(places)
      .values({ placeHash: hashOf(place), userId })
      .onConflictDoUpdate({ target: [places.placeHash, places.userId], set: { seenAt: new Date() } });
  return token;
}

/** Tries a password and begins a session, where there is no second step. */
export async function signIn(email: string, password: string, from?: From): Promise<string | null> {
  const userId = await whoseSignIn(email, password);
  return userId === null ? null : beginSession(userId, from);
}

const ranked = sql.raw(`ARRAY[${deskRoleNames.map((role) => `'${role}'`).join(', ')}]`);

/** Whatever gives somebody a role on a desk; the highest counts. In plain SQL, whose names hold in every statement about users. */
const heldRoles = sql<Record<string, Role>>`(
  SELECT coalesce(jsonb_object_agg(held.desk_id, held.role), '{}') FROM (
    SELECT every.desk_id, (array_agg(every.role ORDER BY array_position(${ranked}, every.role)))[1] AS role FROM (
      SELECT own.desk_id, own.role FROM desk_roles own WHERE own.user_id = users.id
      UNION ALL
      SELECT r.desk_id, r.role FROM group_roles r JOIN group_members m USING (group_id) WHERE m.user_id = users.id
      UNION ALL
      SELECT d.id, 'reader' FROM desks d WHERE d.is_open
    ) AS every GROUP BY every.desk_id
  ) AS held)`;

/** The names of somebody's groups. */
export const heldGroups = sql<string[]>`(SELECT coalesce(jsonb_agg(g.name ORDER BY g.name), '[]')
  FROM groups g JOIN group_members m ON m.group_id = g.id WHERE m.user_id = users.id)`;

const asUser = {
  id: users.id,
  email: users.email,
  name: users.name,
  isAdministrator: users.isAdministrator,
  roles: heldRoles,
  groups: heldGroups,
  attributes: users.attributes,
};

/** Somebody as they would be if they signed in now. */
export async function findUser(id: string): Promise<User | null> {
  const [found] = await database().select(asUser).from(users).where(eq(users.id, id)).limit(1);
  return found ?? null;
}

/** Those who may read a desk by a role of their own or a group's, or because it is open; by name. */
export async function peopleWhoRead(
  deskId: string,
  { find, except, limit }: { readonly find: string; readonly except: string | null; readonly limit: number },
): Promise<{ id: string; name: string; role: string }[]> {
  const role = sql<string | null>`${heldRoles}->>${deskId}::text`;
  return database()
    .select({
      id: users.id,
      name: users.name,
      role: sql<string>`CASE WHEN users.is_administrator THEN 'administrator' ELSE ${role} END`,
    })
    .from(users)
    .where(
      sql`(users.is_administrator OR ${role} IS NOT NULL) AND users.id IS DISTINCT FROM ${except}::uuid
        AND strpos(lower(users.name || ' ' || users.email), lower(${find})) > 0`,
    )
    .orderBy(sql`lower(users.name)`)
    .limit(limit);
}

/** The person a session token belongs to, while it lasts. */
export async function personOf(token: string): Promise<User | null> {
  const [found] = await database()
    .select(asUser)
    .from(sessions)
    .innerJoin(users, eq(users.id, sessions.userId))
    .where(and(eq(sessions.tokenHash, hashOf(token)), gt(sessions.expiresAt, new Date())))
    .limit(1);
  return found ?? null;
}

/** The session of a token. */
export const sessionsOf = (token: string): SQL => eq(sessions.tokenHash, hashOf(token));

export const signOut = (token: string): Promise<void> => endSessions(sessionsOf(token));

/** Ends sessions, and with them what their browsers are still being told. */
export async function endSessions(which: SQL | undefined): Promise<void> {
  const ended = await database().delete(sessions).where(which).returning({ hash: sessions.tokenHash });
  for (const { hash } of ended) await database().execute(sql`SELECT pg_notify('slate_signed_out', ${hash})`);
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
  desk: { readonly slug: string; readonly name: string; readonly zone: string },
): Promise<boolean> {
  const passwordHash = await hashPassword(password);
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
  attributes = {},
}: Pick<User, 'email' | 'name'> & Partial<User> & { readonly password: string }): Promise<void> {
  const passwordHash = await hashPassword(password);
  await inTransaction(async (tx) => {
    const [added] = await tx
      .insert(users)
      .values({ email: accountOf(email), name, isAdministrator, attributes, passwordHash })
      .onConflictDoNothing()
      .returning({ id: users.id });
    const held = Object.entries(roles).map(([deskId, role]) => ({ deskId, role }));
    if (added && held.length > 0)
      await tx.insert(deskRoles).values(held.map((each) => ({ ...each, userId: added.id })));
  });
}
