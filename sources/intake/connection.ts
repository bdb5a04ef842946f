import { z } from 'zod';

/** Events that are sent to us. Only the hash (SHA-256) of the key is kept. */
export const IntakeConnection = z.object({ kind: z.literal('intake'), keyHash: z.string().length(64) });
export type IntakeConnection = z.infer<typeof IntakeConnection>;
