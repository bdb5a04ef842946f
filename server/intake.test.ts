import { randomUUID } from 'node:crypto';
import { appendFileSync, mkdtempSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import express from 'express';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Connection } from '#sources/connection.ts';
import { hashOfKey } from '#sources/intake/key.ts';
import { type KeptTest, keptTest } from '../testing/kept.ts';
import { intakeRoutes } from './intake.ts';
import { refresh } from './kept/refresh.ts';
import { addDataSet } from './store/data-sets.ts';
import { currentVersion } from './store/kept.ts';
import { latestRejects, refreshHistory } from './store/refreshes.ts';
import { addSource } from './store/sources.ts';

let installed: KeptTest;
let server: Server;
let base = '';
const key = 'a-key-for-the-tests-0123456789';
const source = randomUUID();
const folder = mkdtempSync(path.join(tmpdir(), 'slate-follow-'));
const report = { facts: [], warnings: [], clockSkewMs: null, tookMs: 0, at: '' };

async function followed(
  of: string,
  request: DataSet['request'],
  more: Partial<DataSet> = {},
): Promise<string> {
  const id = randomUUID();
  const definition: DataSet = {
    version: 2,
    source: of,
    request,
    inputs: [],
    fields: request.columns.map(({ name, type }) => ({ name, type })),
    noun: { one: 'event', many: 'events' },
    measures: [],
    keep: { mode: { kind: 'follow' }, schedule: { kind: 'by hand' } },
    ...more,
  };
  await addDataSet({ id, name: 'Events', definition, by: null });
  return id;
}
const columns = [
  { column: '/n', name: 'n', type: 'integer' as const },
  { column: '/at', name: 'at', type: 'instant' as const },
];

beforeAll(async () => {
  process.env.SLATE_LOG_FOLDERS = folder;
  installed = await keptTest();
  const connection: Connection = { kind: 'intake', keyHash: hashOfKey(key) };
  await addSource({ id: source, name: 'Events', connection, secret: '', report, madeBy: null });
  const app = express().use(intakeRoutes());
  server = app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const address = server.address();
  base = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
});
afterAll(async () => {
  server.close();
  await installed.close();
  rmSync(folder, { recursive: true, force: true });
});

const send = (at: string, body: string | Uint8Array, headers: Record<string, string> = {}) =>
  fetch(`${base}${at}`, {
    method: 'POST',
    body: body as BodyInit,
    headers: { authorization: `Bearer ${key}`, ...headers },
  });
const lines = (body: string | Uint8Array, headers = {}) => send('/intake/lines', body, headers);
const otlp = (body: unknown, headers = {}) =>
  send('/v1/logs', JSON.stringify(body), { 'content-type': 'application/json', ...headers });
const event = (n: number): string => JSON.stringify({ n, at: '2026-11-23T06:40:00Z' });

describe('the intake', () => {
  test('takes nothing without its key', async () => {
    for (const authorization of ['', 'Bearer wrong-wrong-wrong-wrong', 'Basic abc', `bearer${key}`]) {
      const answer = await lines(event(1), { authorization });
      expect(answer.status).toBe(401);
      expect(answer.headers.get('www-authenticate')).toBe('Bearer');
    }
  });
  test('takes lines, packed or not, once though they are sent twice, and says what is no record', async () => {
    const id = await followed(source, { kind: 'intake', columns });
    expect(await (await lines(`${event(1)}\n${event(2)}\nhalf a li`)).json()).toEqual({
      taken: 3,
      notRecords: 1,
    });
    expect((await lines(`${event(1)}\n${event(2)}\nhalf a li`)).status).toBe(200);
    expect((await lines(gzipSync(event(3)), { 'content-encoding': 'gzip' })).status).toBe(200);
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 3 });
    // Late and out of order, and two batches at once.
    await Promise.all([lines(event(0)), lines(event(5)), lines(event(4))]);
    expect(await refresh(id)).toMatchObject({ state: 'done', kept: 6 });
    expect(await refresh(id)).toMatchObject({ state: 'done', fetched: 0, kept: 6 });
    expect((await latestRejects(id)).map(({ text }) => text)).toEqual(['half a li']);
    expect((await refreshHistory(id)).map(({ rejected }) => rejected)).toEqual([0, 0, 1]);
  });
  test('with a key of the record keeps the latest of each', async () => {
    const id = await followed(source, { kind: 'intake', columns }, { key: 'n' });
    await lines(JSON.stringify({ n: 2, at: '2026-11-24T00:00:00Z' }));
    expect(await refresh(id)).toMatchObject({ kept: 6 });
  });
  test('speaks OTLP: an empty answer, or what it could not take', async () => {
    const request = (logRecords: unknown[]) => ({ resourceLogs: [{ scopeLogs: [{ logRecords }] }] });
    expect(await (await otlp(request([{ body: { stringValue: 'x' } }]))).json()).toEqual({});
    expect(await (await otlp(request([{ body: { stringValue: 'y' } }, 7]))).json()).toMatchObject({
      partialSuccess: { rejectedLogRecords: '1' },
    });
    expect((await otlp({ resourceLogs: 7 })).status).toBe(400);
    expect((await send('/v1/logs', '{"cut', { 'content-type': 'application/json' })).status).toBe(400);
    expect((await send('/v1/logs', 'x', { 'content-type': 'application/x-protobuf' })).status).toBe(415);
  });
  test('refuses what is too large or badly packed, in words', async () => {
    expect((await lines('x'.repeat(17_000_000))).status).toBe(413);
    const bomb = await lines(gzipSync(Buffer.alloc(40_000_000, 0x20)), { 'content-encoding': 'gzip' });
    expect([bomb.status, (await bomb.json()).message]).toEqual([413, 'it is more than 16 MB, unpacked']);
    expect((await lines('nonsense', { 'content-encoding': 'gzip' })).status).toBe(400);
    expect((await lines('x', { 'content-encoding': 'zstd' })).status).toBe(415);
  });
});

describe('a followed log', () => {
  test('has each line once, however often it is refreshed, and goes on where it ended', async () => {
    const of = randomUUID();
    await addSource({
      id: of,
      name: 'Gates',
      connection: { kind: 'logs', folder },
      secret: '',
      report,
      madeBy: null,
    });
    const id = await followed(of, { kind: 'log', files: '*.log', line: { kind: 'json' }, columns });
    for (let round = 0; round < 4; round += 1) {
      appendFileSync(
        path.join(folder, 'a.log'),
        `${event(round * 2)}\n${event(round * 2 + 1)}\nodd ${round}\n`,
      );
      expect(await refresh(id)).toMatchObject({ state: 'done', kept: (round + 1) * 2 });
    }
    const version = await currentVersion(id);
    expect(version?.position).toMatchObject({ files: [{ offset: expect.any(Number) }] });
    expect(await latestRejects(id)).toHaveLength(4);
  });
});
