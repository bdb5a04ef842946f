import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible';
import { databasePool } from './database.ts';

/** Lets each key through this many times in this many seconds. */
export type Limiter = (keyPrefix: string, points: number, seconds: number) => RateLimiterPostgres;

/** Limits whose counts stand in our own database, and so hold over all processes. Made when first asked for, once a connection. */
export function limitsOf<Limits>(make: (limiter: Limiter) => Limits): () => Limits {
  let current: { readonly pool: object; readonly limits: Limits } | null = null;
  return () => {
    const pool = databasePool();
    const limiter: Limiter = (keyPrefix, points, seconds) =>
      new RateLimiterPostgres({
        storeClient: pool,
        storeType: 'pool',
        tableName: 'rate_limits',
        tableCreated: true,
        clearExpiredByTimeout: true,
        keyPrefix,
        points,
        duration: seconds,
      });
    if (current?.pool !== pool) current = { pool, limits: make(limiter) };
    return current.limits;
  };
}

/** Milliseconds until a limiter lets through again; null when it has let this try through. */
export async function refusal(consumed: Promise<unknown>): Promise<number | null> {
  try {
    await consumed;
    return null;
  } catch (thrown) {
    if (thrown instanceof RateLimiterRes) return thrown.msBeforeNext;
    throw thrown;
  }
}
