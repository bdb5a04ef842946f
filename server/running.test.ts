import { randomBytes } from 'node:crypto';
import type { Server } from 'node:http';
import express from 'express';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { testDatabase } from '#testing/database.ts';
import { sameOrigin } from './front-door.ts';
import { healthRoutes } from './health.ts';
import { log } from './log.ts';
import { logRequests } from './request-log.ts';
import { settingsProblems } from './settings.ts';
import { closeDatabase, migrateDatabase } from './store/database.ts';

/* What an installation is for whoever runs it. */

const token = 'a token of at least twenty';
let own: Awaited<ReturnType<typeof testDatabase>>;
let server: Server;
let at = '';
const lines: { line: Record<string, unknown>; words: string }[] = [];

beforeAll(async () => {
  own = await testDatabase();
  Object.assign(process.env, {
    SLATE_DATABASE: own.url,
    SLATE_KEY: randomBytes(32).toString('base64'),
    SLATE_METRICS_TOKEN: token,
    SLATE_ADDRESS: 'https://glass.skerry.example',
    SLATE_LOG: 'info',
  });
  await migrateDatabase();
  for (const level of ['info', 'error'] as const)
    log[level] = ((line: Record<string, unknown>, words: string) => lines.push({ line, words })) as never;
  const app = express();
  app.set('trust proxy', ['loopback']);
  app.use(logRequests, healthRoutes(), sameOrigin);
  app.get('/who', (request, response) => void response.send(request.ip));
  app.post('/sent', (_, response) => void response.send('taken'));
  app.get('/broken', (_, response) => void response.status(500).send('no'));
  app.get('/join/:code', (_, response) => void response.send('come'));
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const address = server.address();
  at = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
});
afterAll(async () => {
  server.close();
  await closeDatabase();
  await own.client.end();
});

const get = (path: string, headers: Record<string, string> = {}) => fetch(at + path, { headers });

describe('health', () => {
  test('is told without signing in: alive, and ready while our database answers', async () => {
    expect(await (await get('/health')).text()).toBe('alive');
    expect([(await get('/ready')).status, await (await get('/ready')).text()]).toEqual([200, 'ready']);
    await own.client.query('ALTER TABLE users RENAME TO users_away');
    expect((await get('/ready')).status).toBe(503);
    await own.client.query('ALTER TABLE users_away RENAME TO users');
    expect((await get('/ready')).status).toBe(200);
  });

  test('metrics are for whoever has the token, in OpenMetrics', async () => {
    for (const headers of [{}, { Authorization: 'Bearer x' }, { Authorization: `Basic ${token}` }] as Record<
      string,
      string
    >[])
      expect((await get('/metrics', headers)).status).toBe(401);
    await own.client.query(
      "INSERT INTO users (email, name, password_hash) VALUES ('u@skerry.example', 'U', 'x')",
    );
    const answer = await get('/metrics', { Authorization: `Bearer ${token}` });
    expect(answer.headers.get('content-type')).toContain('application/openmetrics-text');
    const text = await answer.text();
    expect(text).toMatch(/^slate_people\{process="\d+"\} 1$/m);
    expect(text).toMatch(/^slate_http_answer_seconds_count\{.*status="2xx".*\} \d+$/m);
    expect(text.trimEnd().endsWith('# EOF')).toBe(true);
  });
});

describe('a request', () => {
  test('is logged with an id that its answer says, and without what it asks for', async () => {
    lines.length = 0;
    const answer = await get('/who?route=secret', { 'X-Request-Id': 'proxy-7' });
    expect(answer.headers.get('x-request-id')).toBe('proxy-7');
    const other = await get('/join/very-secret', { 'X-Request-Id': 'no "good" one' });
    expect(other.headers.get('x-request-id')).toMatch(/^[0-9a-f-]{36}$/);
    await get('/broken');
    expect(lines.map(({ line: { path, status }, words }) => [path, status, words])).toEqual([
      ['/who', 200, 'answered'],
      ['/join/…', 200, 'answered'],
      ['/broken', 500, 'failed'],
    ]);
    expect(JSON.stringify(lines)).not.toContain('secret');
  });

  test('comes from whom a trusted proxy says', async () => {
    expect(await (await get('/who', { 'X-Forwarded-For': '10.1.2.3' })).text()).toBe('10.1.2.3');
  });

  test('that changes something comes from the address that people know, whatever host it asks', async () => {
    const status = async (origin: string) =>
      (await fetch(`${at}/sent`, { method: 'POST', headers: { Origin: origin } })).status;
    expect(await status('https://glass.skerry.example')).toBe(200);
    for (const origin of [
      at,
      'http://glass.skerry.example',
      'https://glass.skerry.example.evil.example',
      'null',
    ])
      expect(await status(origin), origin).toBe(403);
  });
});

test('settings that are wrong are said in a line each, without what they are set to', () => {
  const fine = {
    SLATE_DATABASE: 'postgres://u:p@h/d',
    SLATE_KEY: randomBytes(32).toString('base64'),
  };
  expect(settingsProblems(fine)).toEqual([]);
  expect(settingsProblems({})).toContain('SLATE_DATABASE is not set.');
  expect(settingsProblems({ SLATE_DATABASE: fine.SLATE_DATABASE })).toEqual([
    'SLATE_KEY: this or SLATE_KEY_FILE is needed.',
  ]);
  for (const [wrong, line] of [
    [{ SLATE_KEY: 'c2hvcnQ=' }, 'SLATE_KEY: it must be 32 bytes in base64.'],
    [{ SLATE_METRICS_TOKEN: 'hunter2' }, 'SLATE_METRICS_TOKEN: it must have at least 20 characters.'],
    [{ SLATE_LOG: 'loud' }, /^SLATE_LOG: /],
    [{ PORT: '70000' }, /^PORT: /],
  ] as const) {
    const problems = settingsProblems({ ...fine, ...wrong });
    expect(problems).toHaveLength(1);
    expect(problems[0]).toMatch(line);
    expect(problems.join()).not.toContain(Object.values(wrong)[0]);
  }
  for (const SLATE_ADDRESS of [
    'glass.skerry.example',
    'ftp://x.example',
    'https://x.example/?x',
    'https://x.example/a//b',
  ])
    expect(settingsProblems({ ...fine, SLATE_ADDRESS })).toHaveLength(1);
});
