import Big from 'big.js';
import type { Cell } from '#core/value/field/value.ts';

/** How a number stands against the one before. Exact: computed on the decimal texts. */
export interface Difference {
  /** Signed text: "4", "-0.031". */
  readonly by: string;
  /** As a ratio of the one before; null when that was zero. */
  readonly ratio: string | null;
  readonly direction: 'up' | 'down' | 'same';
}

/** The difference between two cells, or null where either is blank or no number. */
export function differenceOf(now: Cell, before: Cell | undefined): Difference | null {
  if (now === null || before === null || before === undefined) return null;
  try {
    const [after, first] = [new Big(String(now)), new Big(String(before))];
    const by = after.minus(first);
    return {
      by: by.toFixed(),
      ratio: first.eq(0) ? null : by.div(first.abs()).toFixed(),
      direction: by.eq(0) ? 'same' : by.gt(0) ? 'up' : 'down',
    };
  } catch {
    return null;
  }
}
