import type { Auth } from '#core/dataset/http/schema.ts';
import { counted } from '#core/value/format/counted.ts';
import type { ConnectionReport } from '../kind.ts';
import { requireGood } from './answer.ts';
import type { HttpConnection } from './connection.ts';
import type { Ask } from './credentials.ts';
import { skewOf } from './skew.ts';

/** How many calls a day are allowed, where that is limited. */
export const allowanceFacts = (allowance: number | undefined): ConnectionReport['facts'] =>
  allowance ? [{ name: 'Allowance', value: `${counted(allowance, 'call')} a day` }] : [];

/** Warns of a credential that anybody on the way can read. */
export const openTravelWarnings = (base: string, auth: Auth): string[] =>
  new URL(base).protocol === 'http:' && auth.kind !== 'none'
    ? ['The credential travels unencrypted. Prefer an https address.']
    : [];

/** Asks the base address, or a path under it, with the credential. Throws a `ProblemError` in plain words. */
export async function testHttp(
  { base, auth, allowance }: HttpConnection,
  ask: Ask,
  path: string,
  now: () => Date,
): Promise<ConnectionReport> {
  const started = performance.now();
  const address = new URL(path.replace(/^\/+/, ''), base.endsWith('/') ? base : `${base}/`);
  const doing = `asking ${address.origin}${address.pathname}`;
  const answer = await ask({
    address: address.href,
    doing,
    headers: { accept: 'application/json, */*;q=0.5' },
  });
  // A service need not have anything at its base; what counts is that it answered and took the credential.
  if (path !== '' || answer.status === 401 || answer.status === 403 || answer.status >= 500)
    requireGood(answer, doing);
  const tookMs = Math.round(performance.now() - started);
  const { header } = answer;
  return {
    facts: [
      {
        name: 'Answered',
        value: `${answer.status}${header('content-type') ? `, ${header('content-type')?.split(';')[0]}` : ''}`,
      },
      ...(header('server') ? [{ name: 'Server', value: header('server') ?? '' }] : []),
      {
        name: 'Credential',
        value: auth.kind === 'none' ? 'none is sent' : answer.status < 300 ? 'taken' : 'not refused',
      },
      ...allowanceFacts(allowance),
    ],
    warnings: [
      ...openTravelWarnings(base, auth),
      ...(auth.kind === 'key' && auth.in === 'query'
        ? ['A key in the query ends up in the service’s logs. Prefer a header where it takes one.']
        : []),
    ],
    clockSkewMs: skewOf(header('date'), now()),
    tookMs,
    at: now().toISOString(),
  };
}
