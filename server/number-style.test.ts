import { randomBytes } from 'node:crypto';
import type { Request, Response } from 'express';
import { beforeAll, expect, test } from 'vitest';
import { formatNumber } from '#core/value/format/format.ts';
import { lookHeaders } from './cookies.ts';
import { inNumberStyle } from './number-style.ts';

beforeAll(() => {
  process.env.SLATE_DATABASE = 'postgres://127.0.0.1/nowhere';
  process.env.SLATE_KEY = randomBytes(32).toString('base64');
});

/** What a request writes, in the middle of whatever else is going on. */
async function written(numbers: string | null): Promise<string> {
  const headers = await lookHeaders(numbers === null ? {} : { numbers });
  const cookie = headers.get('set-cookie')?.split(';')[0];
  const request = { get: () => cookie } as unknown as Request;
  return new Promise((resolve, reject) => {
    inNumberStyle(request, {} as Response, async (problem) => {
      if (problem) reject(problem);
      await new Promise((next) => setTimeout(next, 5));
      resolve(formatNumber('1234.5'));
    });
  });
}

test('requests that are answered at once are each written in their own style', async () => {
  const styles = ['comma', null, 'space', 'point', 'roman'];
  const all = await Promise.all([...styles, ...styles].map(written));
  const expected = ['1.234,5', '1,234.5', '1\u202F234,5', '1,234.5', '1,234.5'];
  expect(all).toEqual([...expected, ...expected]);
});
