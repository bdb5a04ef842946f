import { randomBytes } from 'node:crypto';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import compression from 'compression';
import express from 'express';
import { expect, test } from 'vitest';
import { letGoOfDrains } from './drains.ts';

test('a long answer that waits for room again and again comes whole, and keeps nobody who has waited', async () => {
  const warned: string[] = [];
  const warn = ({ name }: Error): void => void warned.push(name);
  process.on('warning', warn);
  const pieces = Array.from({ length: 100 }, () => randomBytes(12_000).toString('hex'));
  let waits = 0;
  const app = express();
  app.use(compression(), letGoOfDrains);
  app.get('/', async (_, response) => {
    response.type('text/plain');
    for (const piece of pieces)
      if (!response.write(piece)) {
        waits += 1;
        await once(response, 'drain');
      }
    response.end();
  });
  const server = app.listen(0);
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  const answer = await fetch(`http://127.0.0.1:${port}/`, { headers: { 'Accept-Encoding': 'br' } });
  expect(answer.headers.get('content-encoding')).toBe('br');
  expect(await answer.text()).toBe(pieces.join(''));
  server.close();
  await new Promise((resolve) => setImmediate(resolve));
  process.off('warning', warn);
  expect(waits).toBeGreaterThan(20);
  expect(warned).toEqual([]);
});
