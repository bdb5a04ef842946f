import Big from 'big.js';
import type { Band } from './bands.ts';
import type { Tone } from './types.ts';
import type { Cell } from './value.ts';

/* Which band a number lies in: apart from how bands are checked, which readers do not need. */

export interface BandMark {
  readonly word: string;
  readonly tone: Tone;
}

/** What a number is marked with; null where it is blank, is no number, or lies in a band without a mark. Exact. */
export function bandOf(cell: Cell | undefined, bands: readonly Band[] | undefined): BandMark | null {
  if (!bands?.length || cell === null || cell === undefined) return null;
  const text = String(cell);
  if (/^-?Infinity$/.test(text)) return (text.startsWith('-') ? bands[0] : bands.at(-1))?.mark ?? null;
  try {
    const value = new Big(text);
    return bands.findLast(({ from }) => from === undefined || value.gte(from))?.mark ?? null;
  } catch {
    return null;
  }
}
