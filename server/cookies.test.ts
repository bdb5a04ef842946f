import { randomBytes } from 'node:crypto';
import { beforeAll, expect, test } from 'vitest';
import { lookHeaders, readLook } from './cookies.ts';

/* How pages look, as a browser keeps it. */

beforeAll(() => {
  process.env.SLATE_DATABASE = 'postgres://127.0.0.1/nowhere';
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
});

const kept = (headers: Headers): string =>
  headers
    .getSetCookie()
    .map((each) => each.split(';')[0])
    .join('; ');

test('what was chosen comes back; until then it is as the system has it', async () => {
  expect(await readLook(null)).toEqual({ theme: 'system', rows: 'roomy', numbers: 'point' });
  expect(await readLook(kept(await lookHeaders({ theme: 'night' })))).toEqual({
    theme: 'night',
    rows: 'roomy',
    numbers: 'point',
  });
  const both = kept(await lookHeaders({ theme: 'day', rows: 'close' }));
  expect(await readLook(both)).toEqual({ theme: 'day', rows: 'close', numbers: 'point' });
  const comma = kept(await lookHeaders({ numbers: 'comma' }));
  expect((await readLook(comma)).numbers).toBe('comma');
});

test('what is no choice is not kept, and what a browser sends is not taken at its word', async () => {
  expect((await lookHeaders({ theme: 'loud', rows: 7, other: 'x' })).getSetCookie()).toEqual([]);
  expect(await readLook('slate_theme=%22night%22; slate_rows=garbage')).toEqual({
    theme: 'system',
    rows: 'roomy',
    numbers: 'point',
  });
});
