import type { ReadBy } from '#core/value/format/format.ts';

/** What moments of a page are written by, as its loader sends it: IANA zone, and the moment in ISO 8601. */
export interface PageClock {
  readonly zone: string;
  readonly now: string;
}

/** Moments say no year where it is this one. */
export const readBy = ({ zone, now }: PageClock): ReadBy => ({ zone, now: new Date(now) });
