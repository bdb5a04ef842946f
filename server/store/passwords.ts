import { randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { z } from 'zod';

/** argon2id with OWASP's parameters (19 MiB, 2 passes). */
const cost = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

export const hashPassword = (password: string): Promise<string> => hash(password, cost);

/** Whether a password is the one that a hash was made of. */
export const isPassword = (hashed: string, password: string): Promise<boolean> => verify(hashed, password);

/** No password's hash, for accounts that there are not. */
export const nobodysHash = hashPassword(randomBytes(16).toString('base64'));

const leastPassword = 12;

/** Passwords that are tried first, from lists of leaked ones; read when it is first asked for. */
let knownBad: Promise<ReadonlySet<string>> | null = null;
async function readKnownBad(): Promise<ReadonlySet<string>> {
  const { dictionary } = await import('@zxcvbn-ts/language-common');
  return new Set(dictionary['passwords-common'] as readonly string[]);
}

/** A few characters over and over, or a run along the alphabet or the keyboard. */
function isPattern(password: string): boolean {
  const plain = password.toLowerCase();
  if (new Set(plain).size < 5) return true;
  const runs = ['abcdefghijklmnopqrstuvwxyz', '01234567890123456789', 'qwertyuiopasdfghjklzxcvbnm'];
  return runs.some((run) => run.includes(plain) || [...run].reverse().join('').includes(plain));
}

async function isKnownBad(password: string): Promise<boolean> {
  knownBad ??= readKnownBad();
  const known = await knownBad;
  const plain = password.toLowerCase();
  // “password2024” is as well known as “password”.
  return known.has(plain) || known.has(plain.replace(/[^a-z]+$/, '')) || isPattern(password);
}

/** A password as somebody chooses it: long enough and not among those that are tried first. No rules about symbols. */
export const NewPassword = z
  .string()
  .min(leastPassword, `At least ${leastPassword} characters; several words are easy to remember.`)
  .max(1000, 'At most 1,000 characters.')
  .refine(
    async (password) => password.length < leastPassword || !(await isKnownBad(password)),
    'This password is on lists of known ones. Choose another.',
  );
