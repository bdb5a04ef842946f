import { authorityPart, type ChangerForm, type FormPart, type FormTexts } from './form.ts';

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

export const databaseConnection = (kind: string, texts: FormTexts): unknown => ({
  kind,
  host: texts.host,
  port: texts.port || undefined,
  database: texts.database,
  user: texts.user,
  tls: texts.tls || undefined,
  ...(texts.authority ? { authority: texts.authority } : {}),
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

/** Who changes records of a database, apart from who reads them. */
export const databaseChanger = (): ChangerForm => ({
  user: 'User that changes records',
  secret: 'Its password',
});
