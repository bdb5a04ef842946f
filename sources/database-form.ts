import { authorityPart, type FormPart, type Said } from './form.ts';

/* What is asked for to reach a database. */

export const databaseForm = (port: string): readonly FormPart[] => [
  {
    part: 'row',
    wide: true,
    parts: [
      { part: 'text', name: 'host', label: 'Address' },
      { part: 'text', name: 'port', label: 'Port', usual: port, mode: 'numeric' },
    ],
  },
  { part: 'text', name: 'database', label: 'Database' },
  {
    part: 'row',
    parts: [
      { part: 'text', name: 'user', label: 'User' },
      { part: 'secret', label: 'Password' },
    ],
  },
  {
    part: 'choice',
    name: 'tls',
    label: 'TLS',
    choices: [
      { value: 'off', words: 'Off: only on a network you trust' },
      { value: 'require', words: 'Encrypted, certificate not checked' },
      { value: 'verify', words: 'Encrypted, certificate checked' },
    ],
  },
  authorityPart,
];

export const databaseSaid = (kind: string, said: Said): unknown => ({
  kind,
  host: said.host,
  port: said.port || undefined,
  database: said.database,
  user: said.user,
  tls: said.tls || undefined,
  ...(said.authority ? { authority: said.authority } : {}),
});

interface DatabaseConnection {
  readonly kind: string;
  readonly host: string;
  readonly port: number;
  readonly database: string;
  readonly user: string;
  readonly authority?: string | undefined;
}

/** Whoever says whom to trust could have the secret read on the way. */
export const databasePlaces = ({ kind, host, port, authority = '' }: DatabaseConnection): string =>
  `${kind} ${host}:${port} ${authority}`.trim();

export const databaseWhere = (label: string, { database, host, port, user }: DatabaseConnection): string =>
  `${label}, ${database} at ${host}:${port}, as ${user}`;
