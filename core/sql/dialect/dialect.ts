import type { InstantSpan } from '#core/plan/span.ts';
import type { BoundValue, Sql } from '#core/sql/fragment.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cycle, Unit } from '#core/value/period/units.ts';
import type { Scalar } from './scalar.ts';

/** What differs between the engines, and nothing else. Everything shared is in the neighbouring files. */
export interface Dialect {
  /** What steps and expressions need. */
  readonly scalar: Scalar;
  /** A placeholder with its cast, such as `$1::numeric`. */
  placeholder(index: number, value: BoundValue): string;
  /** A source column read as a field's type, where the column's own type differs. */
  read(column: Sql, how: 'text' | 'utc' | 'number' | 'whole'): Sql;
  /** The start of the calendar unit that holds a date or instant: a date, or an instant for hours. */
  periodStart(value: Sql, type: FieldType, unit: Unit, zone: string, span?: InstantSpan): Sql;
  /** The number of what comes round again: an integer. */
  cyclePart(value: Sql, type: FieldType, cycle: Cycle, zone: string, span?: InstantSpan): Sql;
  /** The number of the range that a number is in: an integer, blank for what is blank or no number. */
  binNumber(value: Sql, type: FieldType, bins: Bins): Sql;
  /** Text with the differences of case removed. */
  folded(value: Sql): Sql;
  /** True where text holds what a person typed, at the place said; `%` and `_` are literal, case is ignored. */
  matches(value: Sql, typed: string, at: 'anywhere' | 'start' | 'end'): Sql;
  /** True where a value is one of several, given as one bound list. */
  isOneOf(value: Sql, type: FieldType, values: readonly string[]): Sql;
  /** How many records meet a condition. */
  countIf(condition: Sql): Sql;
  /** The sum over how many; see {@link quotient}. */
  average(value: Sql, type: FieldType, only: Sql): Sql;
  /** The exact middle of the values: the mean of the two middle ones where there are two. */
  median(value: Sql, type: FieldType, only: Sql): Sql;
  /** The nearest-rank percentile. */
  percentile(value: Sql, at: number, only: Sql): Sql;
  /** The first or last value in order. */
  extreme(value: Sql, type: FieldType, which: 'least' | 'greatest', only: Sql): Sql;
  /** Ascending or descending with blanks last both ways; `filled` says that there are none. */
  ordered(value: Sql, type: FieldType, descending: boolean, filled?: boolean): Sql;
  /** A quotient rounded to 12 decimals, half away from zero, and blank for a divisor of zero; `whole` says that both are whole numbers of 64 bits, and how the divisor is written where it is the same for all. */
  quotient(of: Sql, to: Sql, whole?: { readonly by?: string | undefined }): Sql;
  /** Kept records by the name of their version, as a table. */
  kept(name: string): Sql;
}

/** Whether a width of ranges is a whole number of 64 bits, so that whole numbers can be counted without decimals. */
export const isWholeWidth = (width: string): boolean => /^\d{1,18}$/.test(width);
