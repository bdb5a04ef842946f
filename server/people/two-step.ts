import { createHash, randomInt } from 'node:crypto';
import { and, eq, lt } from 'drizzle-orm';
import { generateSecret, generateURI, verify } from 'otplib';
import QRCode from 'qrcode';
import { open, seal } from '../secrets.ts';
import { database, inTransaction } from '../store/database.ts';
import { recoveryCodes, users } from '../store/tables/people.ts';

/* The second step of a sign-in: a code that a device works out from the time (TOTP, RFC 6238), or one of a few written down. */

/** A device's clock may be this far off. */
const toleranceSeconds = 30;
const countOfCodes = 8;
/** Without letters and figures that are taken for each other. */
const letters = 'abcdefghjkmnpqrstuvwxyz23456789';

/** What the secret of somebody is sealed for. */
export const aboutTwoStep = (userId: string): string => `two-step ${userId}`;
const plain = (code: string): string => code.toLowerCase().replace(/[^a-z0-9]/g, '');
const hashOf = (userId: string, code: string): string =>
  createHash('sha256')
    .update(`${userId} ${plain(code)}`)
    .digest('base64url');

/** What a device needs to know, as text and as a picture to be photographed. */
export interface Enrolment {
  readonly secret: string;
  /** A PNG as a data address. */
  readonly picture: string;
}

/** A new secret for somebody to enter into their device. Nothing is kept until {@link beginTwoStep}. */
export async function enrolment(email: string): Promise<Enrolment> {
  const secret = generateSecret();
  const address = generateURI({ issuer: 'Slate Glass', label: email, secret });
  return { secret, picture: await QRCode.toDataURL(address, { margin: 1, scale: 5 }) };
}

/** The step of time that a code belongs to; null where it is wrong. */
async function stepOf(secret: string, code: string): Promise<number | null> {
  const token = plain(code);
  if (!/^\d{6}$/.test(token)) return null;
  const result = await verify({ secret, token, epochTolerance: toleranceSeconds });
  return result.valid && 'timeStep' in result ? result.timeStep : null;
}

/** Begins asking somebody for a second step, once they have shown that their device knows. Gives recovery codes, which are shown once; null for a wrong code. */
export async function beginTwoStep(userId: string, secret: string, code: string): Promise<string[] | null> {
  if (!/^[A-Z2-7]{32}$/.test(secret)) return null;
  const step = await stepOf(secret, code);
  if (step === null) return null;
  const codes = Array.from({ length: countOfCodes }, () => {
    const made = Array.from({ length: 10 }, () => letters[randomInt(letters.length)]).join('');
    return `${made.slice(0, 5)}-${made.slice(5)}`;
  });
  await inTransaction(async (tx) => {
    await tx
      .update(users)
      .set({ twoStepSecret: seal(secret, aboutTwoStep(userId)), twoStepUsed: step })
      .where(eq(users.id, userId));
    await tx.delete(recoveryCodes).where(eq(recoveryCodes.userId, userId));
    await tx.insert(recoveryCodes).values(codes.map((each) => ({ userId, codeHash: hashOf(userId, each) })));
  });
  return codes;
}

/** Asks for no second step any more. */
export async function endTwoStep(userId: string): Promise<void> {
  await inTransaction(async (tx) => {
    await tx.update(users).set({ twoStepSecret: null }).where(eq(users.id, userId));
    await tx.delete(recoveryCodes).where(eq(recoveryCodes.userId, userId));
  });
}

/** Whether somebody is asked for a second step. */
export async function hasTwoSteps(userId: string): Promise<boolean> {
  const [user] = await database()
    .select({ secret: users.twoStepSecret })
    .from(users)
    .where(eq(users.id, userId));
  return user?.secret != null;
}

/** Tries a code of the device, or a recovery code. Each is good once: also where two browsers send it at the same moment. */
export async function passesTwoStep(userId: string, code: string): Promise<boolean> {
  const [user] = await database()
    .select({ secret: users.twoStepSecret })
    .from(users)
    .where(eq(users.id, userId));
  if (!user?.secret) return false;
  const step = await stepOf(open(user.secret, aboutTwoStep(userId)), code);
  if (step !== null) {
    const used = await database()
      .update(users)
      .set({ twoStepUsed: step })
      .where(and(eq(users.id, userId), lt(users.twoStepUsed, step)))
      .returning({ id: users.id });
    return used.length > 0;
  }
  const used = await database()
    .delete(recoveryCodes)
    .where(and(eq(recoveryCodes.userId, userId), eq(recoveryCodes.codeHash, hashOf(userId, code))))
    .returning({ userId: recoveryCodes.userId });
  return used.length > 0;
}
