import { createServer, type Server } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { CheckedSocket, checkedAddresses, isPublic } from './addresses.ts';

describe('an address of the public internet', () => {
  test.each([
    '127.0.0.1',
    '10.1.2.3',
    '172.16.0.9',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '255.255.255.255',
    '::1',
    '::',
    '::7f00:1',
    '::a00:1',
    '::ffff:127.0.0.1',
    '::ffff:7f00:1',
    '64:ff9b::7f00:1',
    '64:ff9b:1::7f00:1',
    '2002:7f00:1::',
    'fe80::1',
    'fec0::1',
    'fd00::1',
    'ff02::1',
    '/var/run/postgresql',
    '',
  ])('is not %s', (address) => expect(isPublic(address)).toBe(false));
  test.each(['93.184.216.34', '2606:4700::1111'])('is %s', (address) => expect(isPublic(address)).toBe(true));
});

test('a name that leads inside is refused, whatever else it leads to', async () => {
  const resolve = async () => [
    { address: '93.184.216.34', family: 4 },
    { address: '10.0.0.5', family: 4 },
  ];
  await expect(checkedAddresses('tides.example', 443, [], 'asking', resolve)).rejects.toThrow(
    'inside this network',
  );
});

describe('a socket', () => {
  let server: Server;
  let port = 0;
  beforeAll(async () => {
    server = createServer((socket) => socket.end('reached'));
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const address = server.address();
    port = typeof address === 'object' && address ? address.port : 0;
  });
  afterAll(() => new Promise((resolve) => server.close(resolve)));

  const outcome = (host: unknown, allowed: string[], at = port): Promise<string> =>
    new Promise((resolve) => {
      const socket = new CheckedSocket(allowed, 'testing');
      socket.once('data', (text) => resolve(String(text)));
      socket.once('error', (error) => resolve(error.message));
      if (typeof host === 'string' && host.startsWith('/')) socket.connect(host);
      else socket.connect(at, host);
    });

  test('reaches a host that is listed', async () => {
    expect(await outcome('127.0.0.1', ['127.0.0.1'])).toBe('reached');
    expect(await outcome('localhost', [`localhost:${port}`])).toBe('reached');
  });
  test.each(['127.0.0.1', 'localhost', '::1', '::ffff:127.0.0.1', '0.0.0.0', '2130706433', '0x7f.1'])(
    'does not reach %s where it is not listed, and says no more of an open port than of a closed one',
    async (host) => {
      const open = await outcome(host, []);
      expect(open).toContain('inside this network');
      expect(await outcome(host, [], 1)).toBe(open);
    },
  );
  test('does not open a socket file of this machine', async () => {
    expect(await outcome('/var/run/postgresql/.s.PGSQL.5432', [])).toContain('inside this network');
  });
});
