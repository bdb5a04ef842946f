import { createServer } from 'node:https';
import { connect } from 'node:tls';
import { expect, test } from 'vitest';
import { problemOf } from '#core/value/problem/problem.ts';
import { authorityProblem, type Tls, tlsOptions } from '#engine/outgoing/tls.ts';
import { testAuthority, testServer } from '#testing/certificates.ts';
import { outgoingClient } from './client.ts';

/** Whether a client with these options takes the server for what it says it is. */
async function connects(options: Tls): Promise<string> {
  const server = createServer(testServer, (_, response) => response.end());
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  try {
    return await new Promise<string>((resolve) => {
      const socket = connect({ host: '127.0.0.1', port, ...(tlsOptions(options) || {}) }, () => {
        socket.end();
        resolve('connected');
      });
      socket.on('error', (thrown: NodeJS.ErrnoException) => resolve(thrown.code ?? thrown.message));
    });
  } finally {
    server.close();
    server.closeAllConnections();
  }
}

test('a certificate of an authority of one’s own is taken where that authority is given, and else refused', async () => {
  expect(await connects({ tls: 'verify' })).toBe('UNABLE_TO_VERIFY_LEAF_SIGNATURE');
  expect(await connects({ tls: 'verify', authority: testAuthority })).toBe('connected');
  expect(await connects({ tls: 'require' })).toBe('connected');
  expect(tlsOptions({ tls: 'off', authority: testAuthority })).toBe(false);
});

test('a service is asked under it as well, and what is wrong says what to do', async () => {
  const server = createServer(testServer, (_, response) => response.end('[]'));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = server.address();
  const at = `https://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}/`;
  const ask = async (authority?: string): Promise<string> => {
    const budget = { spend: async () => {}, told: async () => {} };
    const client = outgoingClient({ allowed: ['127.0.0.1'], authority, budget, secrets: [] });
    try {
      return (await client.call({ address: at, doing: 'asking' })).text;
    } catch (thrown) {
      return problemOf(thrown, 'asking').mend;
    } finally {
      await client.close();
    }
  };
  expect(await ask(testAuthority)).toBe('[]');
  expect(await ask()).toContain('the authority that it is from');
  server.close();
});

test('what everybody trusts is trusted beside it', () => {
  const options = tlsOptions({ tls: 'verify', authority: testAuthority });
  expect(options && (options.ca ?? []).length).toBeGreaterThan(50);
});

test('a text that is no certificate, or holds more, is refused', () => {
  expect(authorityProblem(testAuthority)).toBeNull();
  expect(authorityProblem(`${testAuthority}\n${testServer.cert}`)).toBeNull();
  expect(authorityProblem('trust me')).toContain('no certificate');
  expect(authorityProblem(`${testAuthority}\n${testServer.key}`)).toContain('private key');
  expect(authorityProblem(testAuthority.replace('MII', 'MIX'))).toContain('cannot be read');
});
