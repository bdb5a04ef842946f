import { describe, expect, test } from 'vitest';
import type { Connection } from '#sources/connection.ts';
import { testAuthority } from '#testing/certificates.ts';
import { formValues, SourceInput, secretPlaces } from './source-input.ts';

const id = '5a1e0000-0000-4000-8000-000000000001';
const form = { id, name: 'Tides', intent: 'add', kind: 'http', base: 'https://tides.example/v2' };
const client: Connection = {
  kind: 'http',
  base: 'https://tides.example/v2',
  auth: { kind: 'client', tokenAddress: 'https://sign-in.example/token', client: 'slate' },
};

describe('the form of a source', () => {
  test('gives the connection of its kind, and begins with it again', () => {
    const input = { ...form, auth: 'key', keyIn: 'query', keyName: 'key', allowance: '500' };
    const { connection } = SourceInput.parse(input);
    expect(connection).toEqual({
      kind: 'http',
      base: form.base,
      auth: { kind: 'key', in: 'query', name: 'key' },
      allowance: 500,
    });
    if (connection)
      expect(SourceInput.parse({ ...form, ...formValues(connection) }).connection).toEqual(connection);
    expect(SourceInput.parse({ ...form, ...formValues(client) }).connection).toEqual(client);
    const trusting = { ...client, authority: testAuthority };
    expect(SourceInput.parse({ ...form, ...formValues(trusting) }).connection).toEqual(trusting);
  });

  test.each([
    [{ auth: 'key', keyName: '' }, 'keyName'],
    [{ auth: 'client', client: 'slate', tokenAddress: 'nowhere' }, 'tokenAddress'],
    [{ base: 'tides' }, 'base'],
    [{ allowance: 'many' }, 'allowance'],
    [{ authority: 'trust me' }, 'authority'],
    [{ kind: 'postgres', port: 'x', host: 'h', database: 'd', user: 'u' }, 'port'],
    [{ kind: 'logs', folder: '' }, 'folder'],
  ])('says of %j which field is wrong', (change, field) => {
    const read = SourceInput.safeParse({ ...form, ...change });
    expect(read.error?.issues.map(({ path }) => path[0])).toContain(field);
  });
});

describe('a secret that is not typed again', () => {
  const moved = (change: Partial<typeof client>): Connection => ({ ...client, ...change }) as Connection;
  test('stays while it goes where it went', () => {
    expect(secretPlaces(moved({ base: 'https://tides.example/v3' }))).toBe(secretPlaces(client));
    expect(secretPlaces(moved({ allowance: 7 }))).toBe(secretPlaces(client));
  });
  test.each([
    ['another host', { base: 'https://elsewhere.example/v2' }],
    ['another port', { base: 'https://tides.example:8443/v2' }],
    ['where another authority is trusted', { authority: testAuthority }],
    ['no encryption', { base: 'http://tides.example/v2' }],
    [
      'another giver of tokens',
      { auth: { ...client.auth, tokenAddress: 'https://elsewhere.example/token' } },
    ],
  ])('does not go to %s', (_, change) => {
    expect(secretPlaces(moved(change as Partial<typeof client>))).not.toBe(secretPlaces(client));
  });
});
