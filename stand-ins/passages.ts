import { randomBytes } from 'node:crypto';
import express, { type Request, Router } from 'express';
import { z } from 'zod';
import type { Mischief } from './mischief.ts';
import type { Passage, PassageLine } from './passage-line.ts';

/* The passage service: passages by sailing, in pages by cursor, for clients with a token (OAuth 2 client credentials). */

export interface PassagesOptions {
  readonly client: string;
  /** The client that may change passages, with the same secret; absent: none. */
  readonly changer?: string;
  readonly secret: string;
  readonly line: PassageLine;
  readonly now: () => Date;
  readonly mischief: Mischief;
  /** Seconds that a token, and a cursor, is good for. */
  readonly tokenSeconds?: number;
  readonly cursorSeconds?: number;
}

const pageSize = 50;

/** What of a passage can be changed. */
const Changeable = z.strictObject({
  sailing: z
    .string()
    .regex(/^SK-\d{5}$/)
    .optional(),
  state: z.literal('cancelled').optional(),
});

export function passageService(options: PassagesOptions): Router {
  const { client, changer, secret, line, now, mischief, tokenSeconds = 300, cursorSeconds = 600 } = options;
  const router = Router();
  const tokens = new Map<string, { until: number; mayChange: boolean }>();
  /** What clients have made of passages, by reference, since the service was started. */
  const changed = new Map<string, Partial<Passage>>();
  router.post('/token', express.urlencoded({ extended: false }), (request, response) => {
    const [, basic = ''] = /^Basic (\S+)$/.exec(request.get('authorization') ?? '') ?? [];
    const credentials = Buffer.from(basic, 'base64').toString();
    const mayChange = changer !== undefined && credentials === `${changer}:${secret}`;
    if (
      (!mayChange && credentials !== `${client}:${secret}`) ||
      request.body?.grant_type !== 'client_credentials'
    ) {
      response.status(401).json({ error: 'invalid_client' });
      return;
    }
    const token = randomBytes(20).toString('base64url');
    tokens.set(token, { until: now().getTime() + tokenSeconds * 1000, mayChange });
    response.json({ access_token: token, token_type: 'Bearer', expires_in: tokenSeconds });
  });
  const tokenOf = (request: Request) => {
    const [, token = ''] = /^Bearer (\S+)$/.exec(request.get('authorization') ?? '') ?? [];
    return tokens.get(token);
  };
  router.use((request, response, next) => {
    if ((tokenOf(request)?.until ?? 0) > now().getTime()) next();
    else
      response
        .set('WWW-Authenticate', 'Bearer error="invalid_token"')
        .status(401)
        .json({ error: 'invalid_token' });
  });
  router.use(mischief.handler('passages'));
  const find = (reference: string): Passage | null => {
    const passage = line.passages(now()).find(({ passage_ref }) => passage_ref === reference);
    return passage ? { ...passage, ...changed.get(reference) } : null;
  };
  const tagOf = ({ passage_ref, sailing, state }: Passage): string => `"${passage_ref}-${sailing}-${state}"`;
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
      .map((passage) => ({ ...passage, ...changed.get(passage.passage_ref) }))
      .filter(({ sailing }) => request.query.sailing === undefined || sailing === request.query.sailing);
    const page = all.slice(from, from + pageSize);
    const next =
      from + pageSize < all.length ? Buffer.from(`${from + pageSize} ${made}`).toString('base64url') : null;
    response.json({ passages: page, next_cursor: next });
  });
  router.get('/passages/:reference', (request, response) => {
    const found = find(request.params.reference);
    if (!found) response.status(404).json({ error: 'there is no such passage' });
    else response.set('ETag', tagOf(found)).json(found);
  });
  router.patch('/passages/:reference', express.json(), (request, response) => {
    const found = find(String(request.params.reference));
    const match = request.get('if-match');
    const refuse = (status: number, error: string): void => {
      response.status(status).json({ error });
    };
    if (!tokenOf(request)?.mayChange) return refuse(403, 'this client may only read');
    if (!found) return refuse(404, 'there is no such passage');
    if (match !== undefined && match !== tagOf(found)) return refuse(412, 'it was changed meanwhile');
    const change = Changeable.safeParse(request.body);
    if (!change.success) return refuse(422, 'a passage can be moved to another sailing, or cancelled');
    if (found.state === 'cancelled') return refuse(409, 'it is cancelled');
    changed.set(found.passage_ref, { ...changed.get(found.passage_ref), ...change.data });
    response.json({ ...found, ...change.data });
  });
  return router;
}
