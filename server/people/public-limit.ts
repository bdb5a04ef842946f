import { RateLimiterRes } from 'rate-limiter-flexible';
import { limitsOf } from '../store/limits.ts';

/** This many pages in a minute for one network address: each asks for every pane of a dashboard. */
const pages = 30;
const seconds = 60;

const limiters = limitsOf((limiter) => ({ address: limiter('public', pages, seconds) }));

/** Whether a page without signing in may be asked for from a network address just now. */
export async function admitToPublic(address: string): Promise<boolean> {
  try {
    await limiters().address.consume(address);
    return true;
  } catch (thrown) {
    if (thrown instanceof RateLimiterRes) return false;
    throw thrown;
  }
}
