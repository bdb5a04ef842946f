import { z } from 'zod';
import { Auth } from '#core/http/schema.ts';
import { Authority } from './authority.ts';
import { PostgresConnection, tlsModes } from './postgres/connection.ts';

const perDay = z.int().min(1).max(100_000_000);

export const HttpConnection = z.object({
  kind: z.literal('http'),
  base: z.url('an address such as https://tides.example/v2 is needed').max(2000),
  auth: Auth,
  authority: Authority.optional(),
  /** Calls that may be made in a day (UTC). */
  allowance: perDay.optional(),
});
export type HttpConnection = z.infer<typeof HttpConnection>;

export const ODataConnection = HttpConnection.extend({ kind: z.literal('odata') });
export type ODataConnection = z.infer<typeof ODataConnection>;

export const MariaConnection = PostgresConnection.extend({
  kind: z.literal('mariadb'),
  port: z.coerce.number('the port is a number').int().min(1).max(65535).default(3306),
  tls: z.enum(tlsModes).default('off'),
});
export type MariaConnection = z.infer<typeof MariaConnection>;

/** Log files under one of the folders that an administrator has listed. */
export const LogsConnection = z.object({ kind: z.literal('logs'), folder: z.string().min(1).max(2000) });
export type LogsConnection = z.infer<typeof LogsConnection>;

/** Events that are sent to us. Only the hash (SHA-256) of the key is kept. */
export const IntakeConnection = z.object({ kind: z.literal('intake'), keyHash: z.string().length(64) });
export type IntakeConnection = z.infer<typeof IntakeConnection>;

/** What is stored of a source in the clear, by its kind. */
export const Connection = z.discriminatedUnion('kind', [
  PostgresConnection,
  MariaConnection,
  HttpConnection,
  ODataConnection,
  LogsConnection,
  IntakeConnection,
  z.object({ kind: z.literal('upload') }),
]);
export type Connection = z.infer<typeof Connection>;
export type SourceKind = Connection['kind'];
