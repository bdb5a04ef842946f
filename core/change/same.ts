import Big from 'big.js';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric } from '#core/value/field/value.ts';

/** The same instant may be written with more or fewer digits of the second. */
const shortest = (instant: string): string => instant.replace(/(\.\d*?)0+Z$/, '$1Z').replace(/\.Z$/, 'Z');

function isSameNumber(a: string, b: string): boolean {
  try {
    return new Big(a).eq(b);
  } catch {
    // Infinity, and what is no number.
    return false;
  }
}

/** Whether two canonical texts are one value, however each was written: what is kept here writes 10.5 where its source writes 10.50. */
export function isSameValue(type: FieldType, a: string | null, b: string | null): boolean {
  if (a === b) return true;
  if (a === null || b === null) return false;
  if (isNumeric(type)) return isSameNumber(a, b);
  return type === 'instant' && shortest(a) === shortest(b);
}
