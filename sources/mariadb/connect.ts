import type { Connection, ConnectionOptions, Field } from 'mysql2/promise';
import type { FieldType } from '#core/value/field/types.ts';
import { type ProblemCode, ProblemError } from '#core/value/problem/problem.ts';
import { type AllowedHosts, CheckedSocket } from '#engine/outgoing/addresses.ts';
import { tlsOptions } from '#engine/outgoing/tls.ts';
import type { MariaConnection } from './connection.ts';

const connectTimeoutMs = 8_000;

/** Moments are asked for in UTC and written as ISO 8601; `0000-00-00` is no day, so it is blank. */
function momentText(text: string | null): string | null {
  if (text === null || text.startsWith('0000-00-00')) return null;
  return `${text.slice(0, 10)}T${text.slice(11)}Z`;
}

/** Every value as its exact text. */
function textOf(
  field: Field & { string(): string | null; buffer(): Buffer | null; type: string },
): string | null {
  switch (field.type) {
    case 'DATETIME':
    case 'TIMESTAMP':
      return momentText(field.string());
    case 'DATE':
    case 'NEWDATE': {
      const text = field.string();
      return text?.startsWith('0000-00-00') ? null : text;
    }
    case 'BIT': {
      const bits = field.buffer();
      return bits && String(bits.reduce((sum, byte) => sum * 256 + byte, 0));
    }
    default:
      return field.string();
  }
}

/** Where and as whom to reach a database, and which hosts inside this network may be. */
export interface MariaAddress extends MariaConnection {
  readonly password: string;
  readonly allowed: AllowedHosts;
}

export interface SessionOptions {
  /** Names are quoted as the SQL standard has it, for SQL of ours. */
  readonly standardQuotes?: boolean;
  /** Seconds that one statement may take; 0: any. */
  readonly seconds?: number;
  /** Records can be changed in it; else nothing can. */
  readonly changes?: boolean;
}

/** What a session in which records are changed does not let pass: a value that would be cut off or put right. */
const strict = ['STRICT_ALL_TABLES', 'NO_ZERO_DATE', 'NO_ZERO_IN_DATE', 'ERROR_FOR_DIVISION_BY_ZERO'];
/** Seconds that a change waits for a record that somebody else holds. */
const lockSeconds = 5;

/** A session in UTC with a transaction begun. Throws a {@link ProblemError}. */
export async function withSession<T>(
  { host, port, database, user, password, tls, authority, allowed }: MariaAddress,
  doing: string,
  { standardQuotes = false, seconds = 30, changes = false }: SessionOptions,
  use: (connection: Connection) => Promise<T>,
): Promise<T> {
  let connection: Connection | null = null;
  try {
    // Few installations ask a MariaDB, and only some of their processes.
    const { createConnection } = await import('mysql2/promise');
    connection = await createConnection({
      host,
      port,
      database,
      user,
      password,
      connectTimeout: connectTimeoutMs,
      stream: () => new CheckedSocket(allowed, doing).connect(port, host),
      charset: 'utf8mb4',
      multipleStatements: false,
      // A server may ask a client for its files; it gets none.
      flags: ['-LOCAL_FILES'],
      supportBigNumbers: true,
      bigNumberStrings: true,
      dateStrings: true,
      typeCast: textOf as unknown as ConnectionOptions['typeCast'],
      ssl: tlsOptions({ tls, authority }) || undefined,
    } as ConnectionOptions);
    connection.on('error', () => undefined);
    const modes = [...(standardQuotes ? ['ANSI_QUOTES'] : []), ...(changes ? strict : [])];
    await connection.query(
      `SET SESSION sql_mode = '${modes.join()}', time_zone = '+00:00', group_concat_max_len = 1048576`,
    );
    if (changes) await connection.query(`SET SESSION innodb_lock_wait_timeout = ${lockSeconds}`);
    // MariaDB and MySQL call the limit differently; a server that has neither goes without.
    if (seconds > 0)
      await connection
        .query(`SET SESSION max_statement_time = ${seconds}`)
        .catch(() => connection?.query(`SET SESSION max_execution_time = ${seconds * 1000}`))
        .catch(() => undefined);
    await connection.query(
      changes ? 'START TRANSACTION' : 'START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY',
    );
    return await use(connection);
  } catch (thrown) {
    throw mariaProblem(thrown, doing);
  } finally {
    connection?.destroy();
  }
}

const meanings: readonly [RegExp, ProblemCode, string | null, string][] = [
  [
    /ENOTFOUND|EAI_AGAIN/,
    'unreachable',
    'no such host: the name is not known',
    'Check the address for a typing error.',
  ],
  [
    /ECONNREFUSED/,
    'refused',
    'the connection was refused: nothing listens at that address and port',
    'Check the port, and that the database is running.',
  ],
  [
    /ETIMEDOUT|EHOSTUNREACH|ENETUNREACH/,
    'time-out',
    'there was no answer in time',
    'Check the address, and that a firewall lets this server through.',
  ],
  [
    /ER_ACCESS_DENIED_ERROR|ER_ACCESS_DENIED_NO_PASSWORD|AUTH/,
    'credential',
    null,
    'Check the user and the password.',
  ],
  [/ER_BAD_DB_ERROR/, 'database', null, 'Check the name of the database.'],
  [
    /ER_DBACCESS_DENIED|ER_TABLEACCESS_DENIED|ER_COLUMNACCESS_DENIED/,
    'forbidden',
    null,
    'Ask whoever looks after the database to let this user read it.',
  ],
  [
    /ER_NO_SUCH_TABLE|ER_BAD_FIELD|ER_UNKNOWN_TABLE/,
    'missing',
    null,
    'Something that was asked for is not there, or has another name now.',
  ],
  [
    /ER_CANT_EXECUTE_IN_READ_ONLY|ER_OPTION_PREVENTS/,
    'forbidden',
    'the request tried to change records; reading never may',
    'Use one SELECT that only reads.',
  ],
  [
    /ER_STATEMENT_TIMEOUT|ER_QUERY_TIMEOUT|ER_QUERY_INTERRUPTED/,
    'time-out',
    null,
    'Ask for less, or keep the records.',
  ],
  [
    /ER_LOCK_WAIT_TIMEOUT|ER_LOCK_DEADLOCK/,
    'time-out',
    'somebody else is changing one of these records and has not finished',
    'Nothing was changed. Try again in a moment.',
  ],
  [
    /HANDSHAKE_SSL|CERT|SSL/,
    'tls',
    null,
    'Choose another TLS mode, give the certificate of the server’s authority, or mend the server’s certificate.',
  ],
  [
    /ECONNRESET|PROTOCOL_CONNECTION_LOST|EPIPE|ER_SERVER_SHUTDOWN/,
    'unreachable',
    null,
    'It is tried again by itself; if it goes on, tell whoever looks after the database.',
  ],
  [/^ER_/, 'bad-request', null, 'Correct the request or the value that was given.'],
];

/** Any error of the driver as a problem, in the server's own words. */
function mariaProblem(thrown: unknown, doing: string): ProblemError {
  if (thrown instanceof ProblemError) return thrown;
  const { code = '', message = String(thrown) } = thrown as { code?: string; message?: string };
  const found = meanings.find(([shape]) => shape.test(`${code}`));
  return new ProblemError(
    {
      doing,
      code: found?.[1] ?? 'internal',
      why: found?.[2] ?? message,
      mend: found?.[3] ?? 'Try again; if it goes on, tell whoever looks after the database.',
    },
    { cause: thrown },
  );
}

/** A column's type as information_schema tells it, as that of a field. */
export function fieldTypeOf(type: string): FieldType {
  if (/^tinyint\(1\)/.test(type)) return 'boolean';
  if (/^bigint.*unsigned/.test(type)) return 'decimal';
  if (/^(tinyint|smallint|mediumint|int|bigint|year)/.test(type)) return 'integer';
  if (/^(decimal|numeric)/.test(type)) return 'decimal';
  if (/^(float|double|real)/.test(type)) return 'float';
  if (/^date$/.test(type)) return 'date';
  if (/^(datetime|timestamp)/.test(type)) return 'instant';
  if (/^json/.test(type)) return 'nested';
  return 'text';
}
