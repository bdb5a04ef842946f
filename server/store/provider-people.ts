import { randomBytes } from 'node:crypto';
import { and, eq, inArray, isNotNull, isNull, notInArray } from 'drizzle-orm';
import { inTransaction } from './database.ts';
import { hashPassword } from './passwords.ts';
import { accountOf } from './people.ts';
import { groupMembers, groups } from './tables/desks.ts';
import { users } from './tables/people.ts';

/** What is said of somebody who has signed in elsewhere. */
export interface Claims {
  /** Nobody else ever has it. */
  readonly subject: string;
  readonly email: string | null;
  /** The provider has made sure that the address is theirs. */
  readonly isVerified: boolean;
  readonly name: string | null;
  readonly groups: readonly string[];
}

/** Why they may not come in. */
export type ProviderRefusal = 'no account' | 'address not theirs';

/**
 * The account of somebody who has signed in elsewhere: the one that they had before, else that of their address where it is surely
 * theirs, else a new one where a group of theirs is one here. They are then in those groups that the provider says, and in no other that it
 * could say.
 */
export async function accountOfClaims({
  subject,
  email,
  isVerified,
  name,
  groups: named,
}: Claims): Promise<{ readonly id: string } | { readonly refusal: ProviderRefusal }> {
  return inTransaction(async (tx) => {
    const theirs =
      named.length === 0
        ? []
        : await tx
            .select({ id: groups.id })
            .from(groups)
            .where(inArray(groups.providerName, [...named]));
    const [known] = await tx.select({ id: users.id }).from(users).where(eq(users.subject, subject));
    const account = email === null ? null : accountOf(email);
    const [addressed] =
      known || account === null
        ? []
        : await tx.select({ id: users.id }).from(users).where(eq(users.email, account));
    if (addressed && !isVerified) return { refusal: 'address not theirs' as const };
    let id = known?.id;
    if (!id && addressed) {
      const [linked] = await tx
        .update(users)
        .set({ subject })
        .where(and(eq(users.id, addressed.id), isNull(users.subject)))
        .returning({ id: users.id });
      if (!linked) return { refusal: 'address not theirs' as const };
      id = linked.id;
    }
    if (!id) {
      if (account === null || theirs.length === 0) return { refusal: 'no account' as const };
      // Nobody knows it, so nobody signs in here with a password until they have chosen one.
      const passwordHash = await hashPassword(randomBytes(32).toString('base64url'));
      const [added] = await tx
        .insert(users)
        .values({ email: account, name: name?.trim() || account, passwordHash, subject })
        .returning({ id: users.id });
      if (!added) throw new Error('the account was not stored');
      id = added.id;
    }
    const userId = id;
    const ids = theirs.map((group) => group.id);
    const told = tx.select({ id: groups.id }).from(groups).where(isNotNull(groups.providerName));
    await tx
      .delete(groupMembers)
      .where(
        and(
          eq(groupMembers.userId, userId),
          inArray(groupMembers.groupId, told),
          ...(ids.length > 0 ? [notInArray(groupMembers.groupId, ids)] : []),
        ),
      );
    if (ids.length > 0)
      await tx
        .insert(groupMembers)
        .values(ids.map((groupId) => ({ groupId, userId })))
        .onConflictDoNothing();
    return { id: userId };
  });
}
