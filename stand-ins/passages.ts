import { randomBytes } from 'node:crypto';
import express, { Router } from 'express';
import type { Mischief } from './mischief.ts';
import type { PassageLine } from './passage-line.ts';

/* The passage service: passages by sailing, in pages by cursor, for clients with a token (OAuth 2 client credentials). */

export interface PassagesOptions {
  readonly client: string;
  readonly secret: string;
  readonly line: PassageLine;
  readonly now: () => Date;
  readonly mischief: Mischief;
  /** Seconds that a token, and a cursor, is good for. */
  readonly tokenSeconds?: number;
  readonly cursorSeconds?: number;
}

const pageSize = 50;

export function passageService(options: PassagesOptions): Router {
  const { client, secret, line, now, mischief, tokenSeconds = 300, cursorSeconds = 600 } = options;
  const router = Router();
  const tokens = new Map<string, number>();
  router.post('/token', express.urlencoded({ extended: false }), (request, response) => {
    const [, basic = ''] = /^Basic (\S+)$/.exec(request.get('authorization') ?? '') ?? [];
    if (
      Buffer.from(basic, 'base64').toString() !== `${client}:${secret}` ||
      request.body?.grant_type !== 'client_credentials'
    ) {
      response.status(401).json({ error: 'invalid_client' });
      return;
    }
    const token = randomBytes(20).toString('base64url');
    tokens.set(token, now().getTime() + tokenSeconds * 1000);
    response.json({ access_token: token, token_type: 'Bearer', expires_in: tokenSeconds });
  });
  router.use((request, response, next) => {
    const [, token = ''] = /^Bearer (\S+)$/.exec(request.get('authorization') ?? '') ?? [];
    if ((tokens.get(token) ?? 0) > now().getTime()) next();
    else
      response
        .set('WWW-Authenticate', 'Bearer error="invalid_token"')
        .status(401)
        .json({ error: 'invalid_token' });
  });
  router.use(mischief.handler('passages'));
  router.get('/passages', (request, response) => {
    const cursor = typeof request.query.cursor === 'string' ? request.query.cursor : '';
    const [from, made] = cursor
      ? Buffer.from(cursor, 'base64url').toString().split(' ').map(Number)
      : [0, now().getTime()];
    if (from === undefined || made === undefined || Number.isNaN(from)) {
      response.status(400).json({ error: 'the cursor is not one of ours' });
      return;
    }
    if (now().getTime() - made > cursorSeconds * 1000) {
      response.status(410).json({ error: 'the cursor has expired; begin again' });
      return;
    }
    const all = line
      .passages(new Date(made))
      .filter(({ sailing }) => request.query.sailing === undefined || sailing === request.query.sailing);
    const page = all.slice(from, from + pageSize);
    const next =
      from + pageSize < all.length ? Buffer.from(`${from + pageSize} ${made}`).toString('base64url') : null;
    response.json({ passages: page, next_cursor: next });
  });
  return router;
}
