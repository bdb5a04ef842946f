import { z } from 'zod';

/** How a value is written for readers. Numbers are formatted from their exact text. */
export const Format = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('number'), decimals: z.int().min(0).max(12).optional() }),
  z.object({ kind: z.literal('percent'), decimals: z.int().min(0).max(6).optional() }),
  z.object({ kind: z.literal('id') }),
  z.object({ kind: z.literal('date'), style: z.enum(['short', 'long', 'iso']) }),
  z.object({ kind: z.literal('moment'), style: z.enum(['short', 'time', 'long', 'iso']) }),
  z.object({ kind: z.literal('picture') }),
  z.object({ kind: z.literal('link') }),
]);
export type Format = z.infer<typeof Format>;
