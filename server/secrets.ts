import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { settings } from './settings.ts';

/*
 * Credentials are sealed with a key that is not in the database. It stands in the environment, or in a file: then the first line seals, and
 * those after it still open what was sealed before the key was changed.
 */

const nonceBytes = 12;
const tagBytes = 16;

let fromFile: { readonly changed: number; readonly keys: readonly Buffer[] } | null = null;

const readKey = (line: string): Buffer => Buffer.from(line, 'base64');

/** The keys, the one that seals first. A file is read again once it has changed, so that a key is changed while processes run. */
export function currentKeys(): readonly Buffer[] {
  const { SLATE_KEY, SLATE_KEY_FILE } = settings();
  if (SLATE_KEY_FILE === '') return [readKey(SLATE_KEY)];
  const changed = statSync(SLATE_KEY_FILE).mtimeMs;
  if (fromFile?.changed !== changed) {
    const keys = readFileSync(SLATE_KEY_FILE, 'utf8').split('\n').filter(Boolean).map(readKey);
    if (keys.length === 0 || keys.some(({ length }) => length !== 32))
      throw new Error(`${SLATE_KEY_FILE} holds no key of 32 bytes in base64`);
    fromFile = { changed, keys };
  }
  return fromFile.keys;
}

/** Whether the key stands in a file, where it can be changed. */
export const isKeyInFile = (): boolean => settings().SLATE_KEY_FILE !== '';

/** Replaces the keys of the file, all at once; nobody else can read it. Throws where the key does not stand in a file. */
export function writeKeys(keys: readonly Buffer[]): void {
  const { SLATE_KEY_FILE } = settings();
  if (SLATE_KEY_FILE === '')
    throw new Error('the key stands in SLATE_KEY; put it into a file and name that in SLATE_KEY_FILE');
  const beside = `${SLATE_KEY_FILE}.new`;
  writeFileSync(beside, `${keys.map((key) => key.toString('base64')).join('\n')}\n`, { mode: 0o600 });
  renameSync(beside, SLATE_KEY_FILE);
  fromFile = null;
}

/** Seals with AES-256-GCM (NIST SP 800-38D): nonce, tag, ciphertext. `about` is bound in, so a secret moved elsewhere will not open. */
export function sealWith(key: Buffer, secret: string, about: string): Buffer {
  const nonce = randomBytes(nonceBytes);
  const cipher = createCipheriv('aes-256-gcm', key, nonce).setAAD(Buffer.from(about));
  const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

/** Opens what {@link sealWith} made with the same key for the same `about`. Throws when any of the three is another. */
function openWith(key: Buffer, sealed: Buffer, about: string): string {
  const decipher = createDecipheriv('aes-256-gcm', key, sealed.subarray(0, nonceBytes))
    .setAAD(Buffer.from(about))
    .setAuthTag(sealed.subarray(nonceBytes, nonceBytes + tagBytes));
  return decipher.update(sealed.subarray(nonceBytes + tagBytes), undefined, 'utf8') + decipher.final('utf8');
}

/** Seals with the key of now. */
export function seal(secret: string, about: string): Buffer {
  const [key] = currentKeys();
  if (!key) throw new Error('there is no key');
  return sealWith(key, secret, about);
}

/** Opens what {@link seal} made for the same `about`, with the key of now or one before it. */
export const open = (sealed: Buffer, about: string): string => openWithAny(currentKeys(), sealed, about);

/** Opens with whichever of some keys it was sealed with. Throws where it was none of them. */
export function openWithAny(keys: readonly Buffer[], sealed: Buffer, about: string): string {
  let last: unknown = new Error('there is no key');
  for (const key of keys)
    try {
      return openWith(key, sealed, about);
    } catch (thrown) {
      last = thrown;
    }
  throw last;
}

/** What the secret of whoever changes the records of a source is bound to, so that it passes for no other. */
export const aboutChanger = (id: string): string => `${id} changes`;
