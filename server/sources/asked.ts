import { z } from 'zod';
import { Auth } from '#core/http/schema.ts';
import { Connection } from '#sources/connection.ts';

const text = (most: number) => z.string().trim().max(most).default('');

/** The form that a source is added or changed with: every kind's fields, of which the kind takes its own. */
export const SourceAsked = z
  .object({
    id: z.uuid(),
    /** The source that is changed; without it one is added. */
    change: z.uuid().optional(),
    name: z.string('a name is needed').trim().min(1, 'a name is needed').max(500),
    kind: z.enum(['postgres', 'mariadb', 'http', 'odata', 'logs', 'intake']),
    intent: z.enum(['prove', 'add']),
    host: text(255),
    port: text(6),
    database: text(200),
    user: text(200),
    secret: z.string().max(4000).default(''),
    tls: text(10),
    authority: text(100_000),
    base: text(2000),
    auth: text(10),
    keyIn: text(10),
    keyName: text(200),
    tokenAddress: text(2000),
    client: text(200),
    scope: text(500),
    allowance: text(10),
    path: text(2000),
    folder: text(2000),
  })
  .transform((asked, context) => {
    if (asked.kind === 'intake') return { ...asked, connection: null };
    const read = Connection.safeParse(connectionOf(asked));
    if (read.success) return { ...asked, connection: read.data };
    for (const { path, message } of read.error.issues) {
      const field = path[0] === 'auth' ? (path[1] === 'name' ? 'keyName' : path[1]) : path[0];
      context.addIssue({ code: 'custom', message, path: [field ?? 'name'] });
    }
    return z.NEVER;
  });

type Flat = Record<string, string | undefined>;

const authOf = (asked: Flat): unknown => {
  switch (asked.auth) {
    case 'basic':
      return { kind: 'basic', user: asked.user };
    case 'key':
      return { kind: 'key', in: asked.keyIn || 'header', name: asked.keyName };
    case 'bearer':
      return { kind: 'bearer' };
    case 'client':
      return {
        kind: 'client',
        tokenAddress: asked.tokenAddress,
        client: asked.client,
        ...(asked.scope ? { scope: asked.scope } : {}),
      };
    default:
      return { kind: 'none' };
  }
};

function connectionOf(asked: Flat): unknown {
  switch (asked.kind) {
    case 'postgres':
    case 'mariadb':
      return {
        kind: asked.kind,
        host: asked.host,
        port: asked.port || undefined,
        database: asked.database,
        user: asked.user,
        tls: asked.tls || undefined,
        ...(asked.authority ? { authority: asked.authority } : {}),
      };
    case 'http':
    case 'odata':
      return {
        kind: asked.kind,
        base: asked.base,
        auth: authOf(asked),
        ...(asked.authority ? { authority: asked.authority } : {}),
        ...(asked.allowance ? { allowance: Number(asked.allowance) } : {}),
      };
    default:
      return { kind: 'logs', folder: asked.folder };
  }
}

/** What a form shows of a source there is: all but its secret. */
export function formValues(connection: Connection): Record<string, string> {
  const entries = Object.entries(connection).flatMap(([name, value]): [string, string][] => {
    if (name === 'auth') {
      const { kind, ...rest } = Auth.parse(value);
      const said = rest as { in?: string; name?: string };
      return [
        ['auth', kind],
        ...(said.in ? [['keyIn', said.in] as [string, string]] : []),
        ...(said.name ? [['keyName', said.name] as [string, string]] : []),
        ...Object.entries(rest).flatMap(([of, each]): [string, string][] =>
          of === 'in' || of === 'name' ? [] : [[of, String(each)]],
        ),
      ];
    }
    return [[name, String(value)]];
  });
  return Object.fromEntries(entries);
}

/**
 * Everywhere that a connection sends its secret to, as one text: while this stays the same, a secret that is known can stay
 * too. Otherwise whoever changes an address could have it sent to a place of their own.
 */
export function secretPlaces(connection: Connection): string {
  switch (connection.kind) {
    case 'postgres':
    case 'mariadb':
      // Whoever says whom to trust could have it read on the way.
      return `${connection.kind} ${connection.host}:${connection.port} ${connection.authority ?? ''}`.trim();
    case 'http':
    case 'odata': {
      const { base, auth, authority = '' } = connection;
      const places = [base, ...(auth.kind === 'client' ? [auth.tokenAddress] : [])];
      return [...places.map((place) => new URL(place).origin), authority].join(' ').trim();
    }
    default:
      return connection.kind;
  }
}

/** Where a source is, in a few words. */
export function whereWords(connection: Connection): string {
  switch (connection.kind) {
    case 'postgres':
      return `PostgreSQL, ${connection.database} at ${connection.host}:${connection.port}, as ${connection.user}`;
    case 'mariadb':
      return `MariaDB or MySQL, ${connection.database} at ${connection.host}:${connection.port}, as ${connection.user}`;
    case 'http':
      return `HTTP API at ${connection.base}`;
    case 'odata':
      return `OData service at ${connection.base}`;
    case 'logs':
      return `Log files in ${connection.folder}`;
    case 'intake':
      return 'Events that are sent to us';
    case 'upload':
      return 'Files from somebody’s hand';
  }
}
