import { once } from 'node:events';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { brotliCompressSync } from 'node:zlib';
import express from 'express';
import { afterAll, expect, it } from 'vitest';
import { builtFiles } from './built-files.ts';

const folder = mkdtempSync(path.join(tmpdir(), 'slate-built-'));
const script = path.join(folder, 'desk.js');
writeFileSync(script, 'start();');
writeFileSync(`${script}.br`, brotliCompressSync('start();'));
const app = express().use('/assets', builtFiles(folder, { immutable: true, maxAge: '1y' }));
app.use((_, response) => void response.status(404).send('not here'));
const server = app.listen(0, '127.0.0.1');
await once(server, 'listening');
const asked = (name: string, encoding = 'br, gzip'): Promise<Response> =>
  fetch(`http://127.0.0.1:${(server.address() as AddressInfo).port}/assets/${name}`, {
    headers: { 'Accept-Encoding': encoding },
  });

afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

it('comes packed to whoever takes it so, to be kept for good', async () => {
  const answer = await asked('desk.js');
  expect(answer.headers.get('content-encoding')).toBe('br');
  expect(answer.headers.get('content-type')).toMatch(/javascript/);
  expect(answer.headers.get('cache-control')).toBe('public, max-age=31536000, immutable');
  expect(await answer.text()).toBe('start();');
  const plain = await asked('desk.js', 'identity');
  expect(plain.headers.get('content-encoding')).toBeNull();
  expect(await plain.text()).toBe('start();');
});

it('is not found, and readable as that, once it is gone', async () => {
  rmSync(`${script}.br`);
  rmSync(script);
  const answer = await asked('desk.js');
  expect(answer.status).toBe(404);
  expect(answer.headers.get('content-encoding')).toBeNull();
  expect(await answer.text()).toBe('not here');
  expect((await asked('another.js')).status).toBe(404);
});

it('does not leave its folder', async () => {
  expect((await asked('..%2f..%2fetc%2fpasswd')).status).toBeGreaterThanOrEqual(400);
});
