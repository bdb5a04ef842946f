import type { Connection } from './connection.ts';
import { followUps } from './follow-ups/kind.ts';
import { http } from './http/kind.ts';
import { intake } from './intake/kind.ts';
import type { SourceKind } from './kind.ts';
import { logs } from './logs/kind.ts';
import { mariadb } from './mariadb/kind.ts';
import { odata } from './odata/kind.ts';
import { postgres } from './postgres/kind.ts';
import { upload } from './upload/kind.ts';

/** Every kind of source, in the order in which they are offered. */
export const sourceKinds: {
  readonly [K in Connection['kind']]: SourceKind<Extract<Connection, { kind: K }>>;
} = { postgres, mariadb, http, odata, logs, intake, upload, 'follow-ups': followUps };

/** A source's kind. */
export const kindOf = ({ kind }: Pick<Connection, 'kind'>): SourceKind =>
  sourceKinds[kind] as unknown as SourceKind;
