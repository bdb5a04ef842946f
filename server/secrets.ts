import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { settings } from './settings.ts';

const nonceBytes = 12;
const tagBytes = 16;
const key = (): Buffer => Buffer.from(settings().SLATE_KEY, 'base64');

/** AES-256-GCM (NIST SP 800-38D): nonce, tag, ciphertext. `about` is bound in, so a secret moved elsewhere will not open. */
export function seal(secret: string, about: string): Buffer {
  const nonce = randomBytes(nonceBytes);
  const cipher = createCipheriv('aes-256-gcm', key(), nonce).setAAD(Buffer.from(about));
  const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

/** Opens what {@link seal} made for the same `about`. Throws when the key, the bytes or `about` are not the same. */
export function open(sealed: Buffer, about: string): string {
  const decipher = createDecipheriv('aes-256-gcm', key(), sealed.subarray(0, nonceBytes))
    .setAAD(Buffer.from(about))
    .setAuthTag(sealed.subarray(nonceBytes, nonceBytes + tagBytes));
  return decipher.update(sealed.subarray(nonceBytes + tagBytes), undefined, 'utf8') + decipher.final('utf8');
}
