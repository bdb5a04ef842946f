import { formatNumber } from './format.ts';

/** A number of things, as “1 record” or “2,200 records”. A number that is text is exact. */
export const counted = (count: number | bigint | string, one: string, many = `${one}s`): string =>
  `${formatNumber(String(count))} ${String(count) === '1' ? one : many}`;

/** What is so of some of many things: “1 of the sailings has no berth”, “12 of the sailings have no berth”. */
export const someOf = (count: string, many: string, one: string, several: string): string =>
  `${formatNumber(count)} of the ${many} ${count === '1' ? one : several}`;

/** All of some things: “all 2,200 sailings”, “the only sailing”, “no sailings”. */
export const allCounted = (count: string, one: string, many: string): string =>
  count === '0' ? `no ${many}` : count === '1' ? `the only ${one}` : `all ${formatNumber(count)} ${many}`;
