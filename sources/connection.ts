import { z } from 'zod';
import { FollowUpsConnection } from './follow-ups/connection.ts';
import { HttpConnection } from './http/connection.ts';
import { IntakeConnection } from './intake/connection.ts';
import { LogsConnection } from './logs/connection.ts';
import { MariaConnection } from './mariadb/connection.ts';
import { ODataConnection } from './odata/connection.ts';
import { PostgresConnection } from './postgres/connection.ts';
import { UploadConnection } from './upload/connection.ts';

/** What is stored of a source in the clear: a line for each kind. */
export const Connection = z.discriminatedUnion('kind', [
  PostgresConnection,
  MariaConnection,
  HttpConnection,
  ODataConnection,
  LogsConnection,
  IntakeConnection,
  UploadConnection,
  FollowUpsConnection,
]);
export type Connection = z.infer<typeof Connection>;
