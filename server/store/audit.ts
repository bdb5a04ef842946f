import { database } from './database.ts';
import { audit } from './tables.ts';

/** Notes who did what to what. Never holds a credential. */
export async function note(userId: string | null, act: string, subject: string): Promise<void> {
  await database().insert(audit).values({ userId, act, subject });
}
