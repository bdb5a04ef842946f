import { z } from 'zod';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { Authority } from '../authority.ts';

export const tlsModes = ['off', 'require', 'verify'] as const;

/** What is stored of a PostgreSQL source in the clear. The password is kept apart, encrypted. */
export const PostgresConnection = z.object({
  kind: z.literal('postgres'),
  host: z.string().trim().min(1, 'an address is needed').max(255),
  port: z.coerce.number('the port is a number').int().min(1).max(65535).default(5432),
  database: z.string().trim().min(1, 'the name of a database is needed').max(200),
  user: z.string().trim().min(1, 'a user is needed').max(200),
  tls: z.enum(tlsModes).default('off'),
  authority: Authority.optional(),
});
export type PostgresConnection = z.infer<typeof PostgresConnection>;

export const addressOf = (
  { kind: _, ...where }: PostgresConnection,
  password: string,
  allowed: PostgresAddress['allowed'],
): PostgresAddress => ({ ...where, password, allowed });
