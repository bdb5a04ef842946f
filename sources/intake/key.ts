import { createHash, randomBytes } from 'node:crypto';

/* Whoever sends events has a key, of which only the hash (SHA-256) is kept. */

export const hashOfKey = (key: string): string => createHash('sha256').update(key).digest('hex');

export const newKey = (): string => randomBytes(24).toString('base64url');
