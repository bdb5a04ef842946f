import { z } from 'zod';
import { Auth } from '#core/dataset/http/schema.ts';
import { Authority } from '../authority.ts';

export const HttpConnection = z.object({
  kind: z.literal('http'),
  base: z.url('an address such as https://tides.example/v2 is needed').max(2000),
  auth: Auth,
  authority: Authority.optional(),
  /** Calls that may be made in a day (UTC). */
  allowance: z.int().min(1).max(100_000_000).optional(),
});
export type HttpConnection = z.infer<typeof HttpConnection>;
