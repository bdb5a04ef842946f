import { createHash } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { limitsOf, refusal } from '../store/limits.ts';
import { hasSignedInFrom } from '../store/people.ts';

/*
 * Slows down the guessing of passwords, over all processes. Tries are counted by account and by network address before a
 * password is looked at, so that many at once gain nothing; each further lot of wrong ones makes the pause longer. A browser
 * that has signed in to the account before is never refused: others cannot lock its owner out, it only has to wait a little.
 */

const accountTries = 5;
const addressTries = 30;
const windowSeconds = 60;
/** Wrong tries are remembered for so long, for the pauses to grow by. */
const memorySeconds = 86_400;
const longestPauseSeconds = 900;
const longestWaitMs = 8_000;

const limiters = limitsOf((limiter) => ({
  account: limiter('account', accountTries, windowSeconds),
  address: limiter('address', addressTries, windowSeconds),
  known: limiter('known', accountTries, windowSeconds),
  wrongAccount: limiter('wrong-account', 1, memorySeconds),
  wrongAddress: limiter('wrong-address', 1, memorySeconds),
}));

/** Who tries to sign in, and from where. */
export interface Attempt {
  /** As the store has it: trimmed, in small letters. */
  readonly email: string;
  /** The network address. */
  readonly address: string;
  /** What the browser says of itself, where it has signed in before. */
  readonly place: string | null;
}

export type Admission =
  | { readonly ok: true; passed(): Promise<void>; failed(): Promise<void> }
  /** Seconds until the next try is looked at. */
  | { readonly ok: false; readonly seconds: number };

const pauseSeconds = (wrong: number, lot: number): number =>
  Math.min(longestPauseSeconds, windowSeconds * 2 ** Math.max(0, Math.floor(wrong / lot) - 1));

/** Lets a try through, late where there were many, or not at all. What came of it is told by `passed` or `failed`. */
export async function admit({ email, address, place }: Attempt): Promise<Admission> {
  const by = limiters();
  const account = createHash('sha256').update(email).digest('base64url');
  if (place !== null && (await hasSignedInFrom(email, place))) {
    const key = createHash('sha256').update(`${account} ${place}`).digest('base64url');
    const { consumedPoints } = await by.known.penalty(key, 1);
    const late = consumedPoints - accountTries;
    if (late > 0) await wait(Math.min(longestWaitMs, 500 * 2 ** late));
    return { ok: true, passed: async () => void (await by.known.delete(key)), failed: async () => undefined };
  }
  const refused = await Promise.all([
    refusal(by.account.consume(account)),
    refusal(by.address.consume(address)),
  ]);
  const ms = Math.max(...refused.map((each) => each ?? 0));
  if (ms > 0) return { ok: false, seconds: Math.ceil(ms / 1000) };
  return {
    ok: true,
    passed: async () => {
      await Promise.all([
        by.account.delete(account),
        by.wrongAccount.delete(account),
        by.address.reward(address, 1),
      ]);
    },
    failed: async () => {
      const [ofAccount, ofAddress] = await Promise.all([
        by.wrongAccount.penalty(account, 1),
        by.wrongAddress.penalty(address, 1),
      ]);
      if (ofAccount.consumedPoints % accountTries === 0)
        await by.account.block(account, pauseSeconds(ofAccount.consumedPoints, accountTries));
      if (ofAddress.consumedPoints % addressTries === 0)
        await by.address.block(address, pauseSeconds(ofAddress.consumedPoints, addressTries));
    },
  };
}
