/** What an answer says of how often one may ask. */
export interface ToldLimits {
  /** Seconds to wait before asking again; null where nothing is said. */
  readonly waitSeconds: number | null;
  /** Calls left, as the service counts them. */
  readonly left: number | null;
}

const whole = (text: string | null): number | null =>
  text !== null && /^\s*\d{1,12}\s*$/.test(text) ? Number(text) : null;

/** `Retry-After` as seconds: a number, or an HTTP date (RFC 9110, section 10.2.3). */
export function retryAfterSeconds(text: string | null, now: Date): number | null {
  if (text === null) return null;
  const seconds = whole(text);
  if (seconds !== null) return seconds;
  const at = Date.parse(text);
  return Number.isNaN(at) ? null : Math.max(0, Math.ceil((at - now.getTime()) / 1000));
}

/**
 * Reads `Retry-After`, and the rate-limit headers that services send: `RateLimit` with its `r` and `t` parameters
 * (draft-ietf-httpapi-ratelimit-headers), and the older `RateLimit-Remaining` and `X-RateLimit-Remaining` with `-Reset`,
 * which is seconds or, where it is too large for that, a Unix time.
 */
export function toldLimits(header: (name: string) => string | null, now: Date): ToldLimits {
  const rateLimit = header('ratelimit');
  const part = (letter: string): number | null =>
    whole(new RegExp(`[;,]\\s*${letter}=(\\d+)`).exec(rateLimit ?? '')?.[1] ?? null);
  const either = (name: string): number | null =>
    whole(header(`ratelimit-${name}`)) ?? whole(header(`x-ratelimit-${name}`));
  const left = part('r') ?? either('remaining');
  const reset = part('t') ?? either('reset');
  const resetSeconds =
    reset !== null && reset > 1e9 ? Math.max(0, Math.ceil(reset - now.getTime() / 1000)) : reset;
  const after = retryAfterSeconds(header('retry-after'), now);
  return { waitSeconds: after ?? (left === 0 ? resetSeconds : null), left };
}

/** The address of the link with a relation in a Link header (RFC 8288), or null. */
export function linkOf(header: string | null, relation: string): string | null {
  for (const [, address = '', rest = ''] of (header ?? '').matchAll(/<([^>]*)>([^<]*)/g)) {
    const [, quoted, bare] = /;\s*rel\s*=\s*(?:"([^"]*)"|([^\s;,"]+))/i.exec(rest) ?? [];
    if ((quoted ?? bare ?? '').toLowerCase().split(/\s+/).includes(relation)) return address;
  }
  return null;
}
