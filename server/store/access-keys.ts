import { createHash, randomBytes } from 'node:crypto';
import { and, asc, eq, gt, isNull, lt, or, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { findUser, type User } from './people.ts';
import { accessKeys } from './tables/access-keys.ts';

export interface AccessKey {
  readonly id: string;
  readonly name: string;
  readonly dashboards: readonly string[];
  readonly dataSets: readonly string[];
  /** Null where it has no end, and while nobody has used it. */
  readonly expiresAt: Date | null;
  readonly usedAt: Date | null;
}

const prefix = 'sg-';
const hashOf = (key: string): string => createHash('sha256').update(key).digest('base64url');

/** Makes a key of somebody. Gives it, this once. */
export async function addAccessKey(
  userId: string,
  {
    name,
    dashboards,
    dataSets,
    expiresAt,
  }: Pick<AccessKey, 'name' | 'dashboards' | 'dataSets' | 'expiresAt'>,
): Promise<string> {
  const key = `${prefix}${randomBytes(24).toString('base64url')}`;
  await database()
    .insert(accessKeys)
    .values({ keyHash: hashOf(key), userId, name, dashboards, dataSets, expiresAt });
  return key;
}

export const listAccessKeys = (userId: string): Promise<AccessKey[]> =>
  database()
    .select()
    .from(accessKeys)
    .where(eq(accessKeys.userId, userId))
    .orderBy(asc(accessKeys.name), asc(accessKeys.madeAt));

/** Ends a key of somebody's. */
export async function removeAccessKey(userId: string, id: string): Promise<void> {
  await database()
    .delete(accessKeys)
    .where(and(eq(accessKeys.userId, userId), eq(accessKeys.id, id)));
}

/** A key with the person whose it is, as they are now; null where it is none, has ended, or they have gone. */
export async function accessKeyOf(key: string): Promise<{ key: AccessKey; user: User } | null> {
  if (!key.startsWith(prefix)) return null;
  const [found] = await database()
    .select()
    .from(accessKeys)
    .where(
      and(
        eq(accessKeys.keyHash, hashOf(key)),
        or(isNull(accessKeys.expiresAt), gt(accessKeys.expiresAt, new Date())),
      ),
    )
    .limit(1);
  const user = found ? await findUser(found.userId) : null;
  if (!found || !user) return null;
  // Once a minute is often enough to know whether it is used.
  await database()
    .update(accessKeys)
    .set({ usedAt: new Date() })
    .where(
      and(
        eq(accessKeys.id, found.id),
        or(isNull(accessKeys.usedAt), lt(accessKeys.usedAt, sql`now() - interval '1 minute'`)),
      ),
    );
  return { key: found, user };
}
