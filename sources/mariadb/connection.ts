import { z } from 'zod';
import { PostgresConnection, tlsModes } from '../postgres/connection.ts';

export const MariaConnection = PostgresConnection.extend({
  kind: z.literal('mariadb'),
  port: z.coerce.number('the port is a number').int().min(1).max(65535).default(3306),
  tls: z.enum(tlsModes).default('off'),
});
export type MariaConnection = z.infer<typeof MariaConnection>;
