import type { Auth } from '#core/dataset/http/schema.ts';
import { authorityPart, type FormPart, type FormTexts } from '../form.ts';
import type { HttpConnection } from './connection.ts';

/* What is asked for to reach a service over HTTP. */

/** `base`: what its address is; `more`: what else is asked. */
export const serviceForm = (base: string, more: readonly FormPart[] = []): readonly FormPart[] => [
  { part: 'text', name: 'base', label: 'Address', hint: base, mode: 'url' },
  {
    part: 'choice',
    name: 'auth',
    label: 'Sign in with',
    choices: [
      { value: 'none', words: 'nothing: anybody may ask' },
      { value: 'basic', words: 'user and password' },
      { value: 'key', words: 'a key in a header or the query' },
      { value: 'bearer', words: 'a bearer token' },
      { value: 'client', words: 'OAuth 2 client credentials' },
    ],
  },
  {
    part: 'when',
    name: 'auth',
    is: 'basic',
    parts: [
      { part: 'text', name: 'user', label: 'User' },
      { part: 'secret', label: 'Password' },
    ],
  },
  {
    part: 'when',
    name: 'auth',
    is: 'key',
    parts: [
      {
        part: 'row',
        parts: [
          {
            part: 'choice',
            name: 'keyIn',
            label: 'Sent in',
            choices: [
              { value: 'header', words: 'a header' },
              { value: 'query', words: 'the query' },
            ],
          },
          { part: 'text', name: 'keyName', label: 'Under the name' },
        ],
      },
      { part: 'secret', label: 'Key' },
    ],
  },
  { part: 'when', name: 'auth', is: 'bearer', parts: [{ part: 'secret', label: 'Token' }] },
  {
    part: 'when',
    name: 'auth',
    is: 'client',
    parts: [
      { part: 'text', name: 'tokenAddress', label: 'Address that gives tokens', mode: 'url' },
      {
        part: 'row',
        parts: [
          { part: 'text', name: 'client', label: 'Client' },
          { part: 'text', name: 'scope', label: 'Scope', hint: 'If the service wants one.' },
        ],
      },
      { part: 'secret', label: 'Client secret' },
    ],
  },
  {
    part: 'row',
    parts: [
      {
        part: 'text',
        name: 'allowance',
        label: 'Calls allowed a day',
        hint: 'Blank: no limit.',
        mode: 'numeric',
      },
      ...more,
    ],
  },
  authorityPart,
];

export const serviceConnection = (kind: string, texts: FormTexts): unknown => ({
  kind,
  base: texts.base,
  auth: authOf(texts),
  ...(texts.authority ? { authority: texts.authority } : {}),
  ...(texts.allowance ? { allowance: Number(texts.allowance) } : {}),
});

function authOf(texts: FormTexts): unknown {
  switch (texts.auth) {
    case 'basic':
      return { kind: 'basic', user: texts.user };
    case 'key':
      return { kind: 'key', in: texts.keyIn || 'header', name: texts.keyName };
    case 'bearer':
      return { kind: 'bearer' };
    case 'client':
      return {
        kind: 'client',
        tokenAddress: texts.tokenAddress,
        client: texts.client,
        ...(texts.scope ? { scope: texts.scope } : {}),
      };
    default:
      return { kind: 'none' };
  }
}

export const serviceField = ([first, second]: readonly PropertyKey[]): string | undefined =>
  first !== 'auth' ? undefined : second === 'name' ? 'keyName' : String(second);

type Service = Omit<HttpConnection, 'kind'>;

export function serviceTexts({ base, auth, authority, allowance }: Service): Record<string, string> {
  return {
    base,
    ...authTexts(auth),
    ...(authority ? { authority } : {}),
    ...(allowance === undefined ? {} : { allowance: String(allowance) }),
  };
}

function authTexts(auth: Auth): Record<string, string> {
  switch (auth.kind) {
    case 'key':
      return { auth: 'key', keyIn: auth.in, keyName: auth.name };
    case 'basic':
      return { auth: 'basic', user: auth.user };
    case 'client': {
      const { tokenAddress, client, scope } = auth;
      return { auth: 'client', tokenAddress, client, ...(scope ? { scope } : {}) };
    }
    default:
      return { auth: auth.kind };
  }
}

export function servicePlaces({ base, auth, authority = '' }: Service): string {
  const places = [base, ...(auth.kind === 'client' ? [auth.tokenAddress] : [])];
  return [...places.map((place) => new URL(place).origin), authority].join(' ').trim();
}
