import { limitsOf, refusal } from '../store/limits.ts';

/** This many pages in a minute for one network address: each asks for every pane of a dashboard. */
const pages = 30;
const seconds = 60;

const limiters = limitsOf((limiter) => ({ address: limiter('public', pages, seconds) }));

/** Whether a page without signing in may be asked for from a network address just now. */
export const admitToPublic = async (address: string): Promise<boolean> =>
  (await refusal(limiters().address.consume(address))) === null;
