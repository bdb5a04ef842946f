import { z } from 'zod';
import type { Auth } from '#core/dataset/http/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Answered, HttpClient, Outgoing } from '../outgoing/client.ts';
import { parseJson } from './answer.ts';

/** Tokens by source and credential, until they run out; shared by everything that asks in this process. */
const tokens = new Map<string, { token: Promise<string>; until: number }>();

const Token = z.object({ access_token: z.string().min(1), expires_in: z.coerce.number().optional() });

const usualMs = 5 * 60_000;
/** A token is taken for worn out a little before it is, so that none expires on its way. */
const earlyMs = 10_000;

async function freshToken(
  auth: Extract<Auth, { kind: 'client' }>,
  secret: string,
  client: HttpClient,
): Promise<{ token: string; ms: number }> {
  const doing = 'getting a token';
  const basic = Buffer.from(`${encodeURIComponent(auth.client)}:${encodeURIComponent(secret)}`).toString(
    'base64',
  );
  const answer = await client.call({
    address: auth.tokenAddress,
    method: 'POST',
    isSafe: true,
    doing,
    headers: {
      accept: 'application/json',
      'content-type': 'application/x-www-form-urlencoded',
      authorization: `Basic ${basic}`,
    },
    body: new URLSearchParams({
      grant_type: 'client_credentials',
      ...(auth.scope ? { scope: auth.scope } : {}),
    }).toString(),
  });
  const said = answer.status === 200 ? Token.safeParse(parseJson(answer.text, doing)) : null;
  if (!said?.success)
    throw new ProblemError({
      code: 'credential',
      doing,
      why: `the service gave none: it answered ${answer.status}`,
      mend: 'Check the client, its secret and the address that gives tokens.',
    });
  return { token: said.data.access_token, ms: said.data.expires_in ? said.data.expires_in * 1000 : usualMs };
}

/** Asks with a credential: puts it where it belongs, gets and renews tokens. A 401 for a token is tried once with a new one. */
export function asking(auth: Auth, secret: string, client: HttpClient) {
  const tokenKey = JSON.stringify([auth, secret]);
  const tokenOf = async (isNew: boolean): Promise<string> => {
    if (auth.kind !== 'client') return '';
    const known = tokens.get(tokenKey);
    if (known && !isNew && known.until > performance.now()) return known.token;
    const made = freshToken(auth, secret, client);
    const entry = { token: made.then(({ token }) => token), until: performance.now() + usualMs };
    tokens.set(tokenKey, entry);
    entry.token.catch(() => tokens.delete(tokenKey));
    entry.until = performance.now() + (await made).ms - earlyMs;
    return entry.token;
  };
  const withCredential = async (call: Outgoing, isNew: boolean): Promise<Outgoing> => {
    const header = (name: string, value: string): Outgoing => ({
      ...call,
      headers: { ...call.headers, [name]: value },
    });
    switch (auth.kind) {
      case 'none':
        return call;
      case 'basic':
        return header('authorization', `Basic ${Buffer.from(`${auth.user}:${secret}`).toString('base64')}`);
      case 'bearer':
        return header('authorization', `Bearer ${secret}`);
      case 'client':
        return header('authorization', `Bearer ${await tokenOf(isNew)}`);
      case 'key': {
        if (auth.in === 'header') return header(auth.name.toLowerCase(), secret);
        const address = new URL(call.address);
        address.searchParams.set(auth.name, secret);
        return { ...call, address: address.href };
      }
    }
  };
  return async (call: Outgoing): Promise<Answered> => {
    const answer = await client.call(await withCredential(call, false));
    if (answer.status !== 401 || auth.kind !== 'client') return answer;
    const again = await client.call(await withCredential(call, true));
    return { ...again, calls: again.calls + answer.calls };
  };
}

export type Ask = ReturnType<typeof asking>;
