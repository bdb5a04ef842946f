import { randomBytes } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { eq, isNotNull } from 'drizzle-orm';
import { aboutTwoStep } from '../people/two-step.ts';
import { aboutChanger, currentKeys, isKeyInFile, openWithAny, sealWith, writeKeys } from '../secrets.ts';
import { inTransaction } from '../store/database.ts';
import { users } from '../store/tables/people.ts';
import { sources } from '../store/tables/sources.ts';

/** Processes that run read the file again before they seal; what they are in the middle of is stored by then. */
const settleMs = 2_000;

/** Seals every credential again with the first of some keys, whichever of them it was sealed with. Gives how many there are. */
async function sealAll(keys: readonly Buffer[]): Promise<number> {
  const [key] = keys;
  if (!key) throw new Error('there is no key');
  let count = 0;
  const again = (sealed: Buffer, about: string): Buffer => {
    count += 1;
    return sealWith(key, openWithAny(keys, sealed, about), about);
  };
  await inTransaction(async (tx) => {
    for (const { id, secret, changerSecret } of await tx.select().from(sources).for('update'))
      await tx
        .update(sources)
        .set({
          secret: again(secret, id),
          ...(changerSecret ? { changerSecret: again(changerSecret, aboutChanger(id)) } : {}),
        })
        .where(eq(sources.id, id));
    for (const { id, twoStepSecret } of await tx
      .select()
      .from(users)
      .where(isNotNull(users.twoStepSecret))
      .for('update'))
      if (twoStepSecret)
        await tx
          .update(users)
          .set({ twoStepSecret: again(twoStepSecret, aboutTwoStep(id)) })
          .where(eq(users.id, id));
  });
  return count;
}

/**
 * Changes the key that credentials are sealed with, while processes run: the new one stands first in the file, every credential is sealed
 * again, and the old ones leave the file. Whatever it ends in the middle of, every credential still opens, and it can be run again.
 */
export async function rotateKey(): Promise<number> {
  const key = randomBytes(32);
  writeKeys([key, ...currentKeys()]);
  await wait(settleMs);
  const count = await sealAll(currentKeys());
  writeKeys([key]);
  return count;
}

/** Lets credentials that were sealed elsewhere open here, seals them with the key of here, and forgets the others. */
export async function adoptKeys(others: readonly Buffer[]): Promise<number> {
  const all = [...currentKeys(), ...others];
  // Where the key stands in a file, nothing is lost if this ends in the middle.
  if (isKeyInFile()) writeKeys(all);
  const count = await sealAll(all);
  if (isKeyInFile()) writeKeys(all.slice(0, 1));
  return count;
}
