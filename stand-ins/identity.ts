import { createHash, generateKeyPairSync, randomBytes, sign } from 'node:crypto';
import express, { type Response, Router } from 'express';
import type { Mischief } from './mischief.ts';

/*
 * Where the staff of the ferry line sign in (OpenID Connect Core 1.0, code flow with a proof key). It asks for no password: whoever comes
 * says who they are.
 */

interface StaffMember {
  readonly sub: string;
  readonly name: string;
  readonly email: string;
  readonly isVerified: boolean;
  readonly groups: readonly string[];
}

const staff: readonly StaffMember[] = [
  {
    sub: '1001',
    name: 'Una Rendall',
    email: 'una@skerry.example',
    isVerified: true,
    groups: ['yard', 'deck'],
  },
  {
    sub: '1002',
    name: 'Sigurd Foubister',
    email: 'sigurd@skerry.example',
    isVerified: true,
    groups: ['deck'],
  },
  { sub: '1003', name: 'Wilma Isbister', email: 'wilma@skerry.example', isVerified: true, groups: [] },
  // Somebody who says that they have an address that is another's.
  { sub: '1004', name: 'Mansie Harcus', email: 'admin@skerry.example', isVerified: false, groups: ['yard'] },
  { sub: '1005', name: 'Torquil Brae', email: 'reader@skerry.example', isVerified: true, groups: [] },
];

interface Given {
  readonly sub: string;
  readonly nonce: string;
  readonly challenge: string;
  readonly redirect: string;
  readonly until: number;
}

const codeMs = 60_000;
const tokenSeconds = 300;
const encoded = (value: object): string => Buffer.from(JSON.stringify(value)).toString('base64url');
const escaped = (text: string): string => text.replace(/[&<>"']/g, (mark) => `&#${mark.charCodeAt(0)};`);

export interface IdentityOptions {
  readonly client: string;
  readonly secret: string;
  readonly now: () => Date;
  readonly mischief: Mischief;
}

/** The provider under a path, of which its address is the issuer. */
export function identityService({ client, secret, now, mischief }: IdentityOptions): Router {
  const router = Router();
  const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
  const kid = randomBytes(8).toString('base64url');
  const codes = new Map<string, Given>();
  const issuerOf = (host: string | undefined, base: string): string => `http://${host}${base}`;

  router.get('/.well-known/openid-configuration', (request, response) => {
    if (mischief.next('identity')) return void response.status(503).end();
    const issuer = issuerOf(request.get('host'), request.baseUrl);
    response.json({
      issuer,
      authorization_endpoint: `${issuer}/authorize`,
      token_endpoint: `${issuer}/token`,
      jwks_uri: `${issuer}/keys`,
      response_types_supported: ['code'],
      subject_types_supported: ['public'],
      id_token_signing_alg_values_supported: ['RS256'],
      code_challenge_methods_supported: ['S256'],
      token_endpoint_auth_methods_supported: ['client_secret_post', 'client_secret_basic'],
    });
  });

  router.get('/keys', (_, response) => {
    response.json({ keys: [{ ...publicKey.export({ format: 'jwk' }), kid, use: 'sig', alg: 'RS256' }] });
  });

  router.get('/authorize', (request, response) => {
    const query = new URL(request.originalUrl, 'http://here').searchParams;
    if (query.get('client_id') !== client || !URL.canParse(query.get('redirect_uri') ?? ''))
      return void response.status(400).send('This client is not known.');
    const as = query.get('as');
    const member = staff.find(({ sub }) => sub === as);
    if (as === null) return void choose(response, query);
    const back = new URL(query.get('redirect_uri') ?? '');
    back.searchParams.set('state', query.get('state') ?? '');
    if (!member) back.searchParams.set('error', 'access_denied');
    else {
      const code = randomBytes(24).toString('base64url');
      codes.set(code, {
        sub: member.sub,
        nonce: query.get('nonce') ?? '',
        challenge: query.get('code_challenge') ?? '',
        redirect: query.get('redirect_uri') ?? '',
        until: now().getTime() + codeMs,
      });
      back.searchParams.set('code', code);
    }
    response.redirect(back.href);
  });

  router.post('/token', express.urlencoded({ extended: false }), (request, response) => {
    const sent = request.body as Record<string, string | undefined>;
    const [, basic = ''] = (request.get('authorization') ?? '').split(' ');
    const [basicUser, basicSecret] = Buffer.from(basic, 'base64')
      .toString()
      .split(':')
      .map(decodeURIComponent);
    const isClient =
      [basicUser, sent.client_id].includes(client) && [basicSecret, sent.client_secret].includes(secret);
    const given = codes.get(sent.code ?? '');
    codes.delete(sent.code ?? '');
    const proof = createHash('sha256')
      .update(sent.code_verifier ?? '')
      .digest('base64url');
    if (!isClient) return void response.status(401).json({ error: 'invalid_client' });
    if (
      !given ||
      given.challenge !== proof ||
      given.redirect !== sent.redirect_uri ||
      given.until < now().getTime()
    )
      return void response.status(400).json({ error: 'invalid_grant' });
    const member = staff.find(({ sub }) => sub === given.sub);
    const at = Math.floor(now().getTime() / 1000);
    const said = {
      iss: issuerOf(request.get('host'), request.baseUrl),
      aud: client,
      sub: given.sub,
      nonce: given.nonce,
      iat: at,
      exp: at + tokenSeconds,
      name: member?.name,
      email: member?.email,
      email_verified: member?.isVerified,
      groups: member?.groups,
    };
    const text = `${encoded({ alg: 'RS256', typ: 'JWT', kid })}.${encoded(said)}`;
    const signature = sign('sha256', Buffer.from(text), privateKey).toString('base64url');
    response.json({
      access_token: randomBytes(24).toString('base64url'),
      token_type: 'Bearer',
      expires_in: tokenSeconds,
      id_token: `${text}.${signature}`,
    });
  });
  return router;
}

/** The page on which whoever comes says who they are. */
function choose(response: Response, query: URLSearchParams): void {
  const links = [...staff.map(({ sub, name }) => ({ sub, name })), { sub: 'nobody', name: 'Cancel' }].map(
    ({ sub, name }) =>
      `<li><a href="?${escaped(new URLSearchParams([...query, ['as', sub]]).toString())}">${escaped(name)}</a></li>`,
  );
  response.send(
    `<!doctype html><meta charset="utf-8"><title>Skerry staff</title><h1>Skerry staff</h1><p>Who are you?</p><ul>${links.join('')}</ul>`,
  );
}
