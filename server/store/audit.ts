import { desc, eq, sql } from 'drizzle-orm';
import { database } from './database.ts';
import { audit } from './tables/changes.ts';
import { users } from './tables/people.ts';

/** Notes who did what to what. Never holds a credential. */
export async function note(userId: string | null, act: string, subject: string): Promise<void> {
  await database().insert(audit).values({ userId, act, subject });
}

export interface AuditLine {
  readonly id: string;
  readonly at: Date;
  /** Null for what nobody who was signed in did. */
  readonly by: string | null;
  readonly act: string;
  readonly subject: string;
}

/** What was done, latest first, that has `find` in it. */
export const listAudit = (
  find: string,
  { offset, limit }: { readonly offset: number; readonly limit: number },
): Promise<AuditLine[]> =>
  database()
    .select({ id: audit.id, at: audit.at, by: users.name, act: audit.act, subject: audit.subject })
    .from(audit)
    .leftJoin(users, eq(users.id, audit.userId))
    .where(
      find === ''
        ? undefined
        : sql`strpos(lower(concat_ws(' ', ${users.name}, ${audit.act}, ${audit.subject})), lower(${find})) > 0`,
    )
    .orderBy(desc(audit.at), desc(audit.id))
    .offset(offset)
    .limit(limit);
