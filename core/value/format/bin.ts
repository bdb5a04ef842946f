import Big from 'big.js';
import { boundsOf } from '#core/value/bins/bins.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { blank, formatCell, type ReadBy } from './format.ts';

/**
 * A range of numbers by its number: "5 to under 10", of whole numbers "5 to 9"; "under 5" and "200 or more" where it is open.
 */
export function formatBin(
  number: Cell,
  bins: Bins,
  field: Pick<Field, 'type' | 'unit' | 'format'>,
  by: ReadBy,
): string {
  if (number === null) return blank;
  const { from, to } = boundsOf(Number(number), bins);
  const write = (bound: string): string => formatCell(bound, field, by);
  if (from === null) return to === null ? 'all' : `under ${write(to)}`;
  if (to === null) return `${write(from)} or more`;
  if (field.type !== 'integer') return `${write(from)} to under ${write(to)}`;
  const last = new Big(to).minus(1).toFixed();
  return last === from ? write(from) : `${write(from)} to ${write(last)}`;
}
