import type { Cell } from '#core/value/field/value.ts';

/** A stretch of numbers, [from, below), as exact text; the last one holds the greatest value as well. */
export interface Bin {
  readonly from: string;
  readonly below: string | null;
}

const most = 24;
/** Beyond this a bound would not be a plain decimal, and a small histogram would say nothing. */
const widest = 1e15;

/**
 * Splits the numbers from `least` to `greatest` into at most 24 equal stretches with round bounds, which together hold
 * every value once. None for a single value, or where the ends are blank or out of any sensible range.
 */
export function binsOf(least: Cell, greatest: Cell, whole = false): Bin[] {
  const [low, high] = [Number(least ?? Number.NaN), Number(greatest ?? Number.NaN)];
  if (!(high > low) || Math.max(Math.abs(low), Math.abs(high)) > widest) return [];
  const step = whole ? Math.max(1, roundUp((high - low) / most)) : roundUp((high - low) / most);
  const first = Math.floor(low / step);
  const decimals = Math.max(0, -Math.floor(Math.log10(step)));
  if (decimals > 12) return [];
  const count = Math.max(1, Math.ceil((high - first * step) / step));
  return Array.from({ length: count }, (_, index) => ({
    from: ((first + index) * step).toFixed(decimals),
    below: index === count - 1 ? null : ((first + index + 1) * step).toFixed(decimals),
  }));
}

/** The next of 1, 2 and 5 times a power of ten. */
function roundUp(size: number): number {
  const power = 10 ** Math.floor(Math.log10(size));
  return power * (size <= power ? 1 : size <= 2 * power ? 2 : size <= 5 * power ? 5 : 10);
}
