import Big from 'big.js';
import type { FieldType } from '../field/types.ts';
import type { Cell } from '../field/value.ts';
import type { Bins } from './schema.ts';

/* Ranges of one width that numbers are counted in: a histogram's. */

/** The most that the number of a range may be from 0, so that it is exact on every engine. */
export const farthest = 1e12;

/** What ranges are chosen by: the least and greatest of the numbers, and their first and last hundredth. */
export interface BinFacts {
  readonly least: Cell;
  readonly greatest: Cell;
  readonly low: Cell;
  readonly high: Cell;
}

/** The narrowest and widest that a width can be written (see BinWidth). */
const narrowest = new Big('1e-30');
const widest = new Big('5e29');

/** This many ranges can be taken in, and this many at most are made by hand. */
const usualCount = 20;
const mostCount = 100;
/** This many more are made to hold the few numbers at the ends. */
const endCount = 10;

/**
 * The ranges for numbers: of a width by hand, else of one, two or five of a power of ten so that all but the outermost hundredths
 * are in some twenty. Null where there are no numbers, or none that a width could be written for. Those of whole numbers are of a whole width.
 */
export function binsFor(facts: BinFacts, type: FieldType, byHand?: string): Bins | null {
  const [least, greatest, low, high] = [facts.least, facts.greatest, facts.low, facts.high].map(exactly);
  if (!least || !greatest || !low || !high) return null;
  const isWhole = type === 'integer';
  let width = byHand === undefined ? roundWidth(high.minus(low).times(1 / usualCount)) : new Big(byHand);
  if (isWhole) width = atLeast(width.round(0, Big.roundUp), 1);
  // What is far from nothing for its width would have a number that no engine counts exactly.
  for (const end of [least, greatest])
    if (!end.eq(0)) width = atLeast(width, roundWidth(end.abs().times(2 / farthest)));
  width = atLeast(width, narrowest);
  if (width.gt(widest)) return null;
  const numberOf = (value: Big): number => {
    const past = value.mod(width);
    return Number(value.minus(past).div(width)) - (past.lt(0) ? 1 : 0);
  };
  let [first, last] = [numberOf(low), numberOf(high)];
  if (last - first >= mostCount) last = first + mostCount - 1;
  const room = byHand === undefined ? endCount : mostCount - 1 - (last - first);
  const [lowest, highest] = [numberOf(least), numberOf(greatest)];
  if (first - lowest <= room) first = Math.min(first, lowest);
  if (highest - last <= room) last = Math.max(last, highest);
  return {
    width: width.toFixed(),
    first,
    last,
    ...(lowest < first ? { below: true } : {}),
    ...(highest > last ? { above: true } : {}),
  };
}

function exactly(cell: Cell): Big | null {
  try {
    return cell === null ? null : new Big(String(cell));
  } catch {
    return null;
  }
}

const atLeast = (value: Big, least: Big | number): Big => (value.lt(least) ? new Big(least) : value);

/** The least of one, two and five of a power of ten that is not below a number; 1 for nothing. */
function roundWidth(width: Big): Big {
  if (width.lte(0)) return new Big(1);
  const power = new Big(`1e${width.e}`);
  const step = [1, 2, 5, 10].find((each) => power.times(each).gte(width)) ?? 10;
  return power.times(step);
}

/** Where a range begins and ends, as canonical decimal text; null where it is open. */
export function boundsOf(number: number, bins: Bins): { from: string | null; to: string | null } {
  const width = new Big(bins.width);
  return {
    from: bins.below && number <= bins.first ? null : width.times(number).toFixed(),
    to: bins.above && number >= bins.last ? null : width.times(number + 1).toFixed(),
  };
}

/** The numbers of all ranges, in order. */
export const binNumbers = ({ first, last }: Bins): number[] =>
  Array.from({ length: Math.max(0, last - first + 1) }, (_, at) => first + at);
