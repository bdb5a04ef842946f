import type { Part } from '#core/ask/expression/parse.ts';
import type { Sql } from '#core/sql/fragment.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Unit } from '#core/value/period/units.ts';

/** What else differs between the engines where records are shaped by steps. Values are read as fields are: empty text is blank. */
export interface Scalar {
  /** Text that a person reads: decimals without idle zeros, instants in ISO 8601 with six digits of the second. */
  text(value: Sql, type: FieldType): Sql;
  /** True where all of a text is as a pattern says that both engines have. */
  like(value: Sql, pattern: string): Sql;
  /** A text that is known to be written as values of a type are, as one; blank where there is no such value. */
  read(text: Sql, to: Exclude<FieldType, 'text'>): Sql;
  /** A whole number that may be beyond 64 bits, as an integer; blank where it is. */
  fitted(value: Sql): Sql;
  /** An error with a message, in a place where a value of a type is wanted. The message depends on a record. */
  fail(message: Sql, type: FieldType): Sql;
  /** How many different values a group has; about, where counting exactly would take long. */
  aboutDistinct(value: Sql): Sql;
  /** Nothing, where a value of a type is wanted. */
  blank(type: FieldType): Sql;
  /** A number as an exact one with at most 12 decimals, halves away from zero. */
  exact(value: Sql, type: FieldType): Sql;
  /** An exact number rounded, halves away from zero. */
  rounded(value: Sql, places: number): Sql;
  /** A product of exact numbers, with at most 12 decimals. */
  product(a: Sql, b: Sql): Sql;
  /** An exact number as a float. */
  float(value: Sql): Sql;
  /** How many characters a text has. */
  length(text: Sql): Sql;
  /** Where a text first stands in another, from 1; 0 where it does not. */
  position(inside: Sql, find: Sql): Sql;
  /** A whole number as a place in a text. */
  place(value: Sql): Sql;
  /** A whole number as days that a date can be moved by. */
  dayCount(value: Sql): Sql;
  /** The instant at which a date begins in UTC. */
  midnight(value: Sql): Sql;
  /** A part of a date, or of an instant by the clocks of a zone. */
  part(part: Exclude<Part, 'epoch'>, value: Sql, type: FieldType, zone: string): Sql;
  /** A date or instant moved by calendar units. */
  moved(value: Sql, type: FieldType, amount: string, unit: Unit | 'minute' | 'second'): Sql;
  /** Exact seconds from one instant to a later one. */
  seconds(later: Sql, earlier: Sql): Sql;
  /** Whole stretches of this many seconds from one instant to a later one, counted down below zero. */
  between(later: Sql, earlier: Sql, seconds: number): Sql;
  /** The days from one date to a later one. */
  days(later: Sql, earlier: Sql): Sql;
  /** What the clocks of a zone showed, held as if it were UTC, as the instant it was. */
  fromClock(value: Sql, zone: string): Sql;
  /** Text compared by code point, which is the same everywhere. */
  byCode(value: Sql): Sql;
  /** True where text is as a LIKE pattern, letter for letter. */
  likePattern(value: Sql, pattern: Sql): Sql;
  /** What a pattern finds in text: its first group, else all of it. */
  found(value: Sql, pattern: string): Sql;
  /** Percent-encoded except for RFC 3986's unreserved characters. */
  encoded(value: Sql): Sql;
  /**
   * The records of a FROM item `s` once for each item of a list in JSON text, with what says the item and its place, from 1. JSON
   * that is no list has none; `keepEmpty` keeps a record without items once.
   */
  unfolded(records: Sql, value: Sql, keepEmpty: boolean): { from: Sql; item: Sql; place: Sql };
  /** A member of JSON text at a path, as text; a string without its quotes. */
  member(value: Sql, path: readonly string[]): Sql;
  /** A member of JSON text at a path, as JSON text. */
  nested(value: Sql, path: readonly string[]): Sql;
  /** The records of a group as a list of objects in JSON text, in an order. */
  objects(members: readonly { name: string; value: Sql; type: FieldType }[], order: Sql): Sql;
  /** The only value of a group of one record. */
  only(value: Sql, type: FieldType): Sql;
  /** The value in the record that comes first by another value; blanks of either are passed over. */
  firstBy(value: Sql, by: Sql, which: 'first' | 'last', type: FieldType, only: Sql | null): Sql;
  /** The sum of products, exact for exact numbers. */
  sumOfProducts(value: Sql, by: Sql, type: 'integer' | 'decimal' | 'float', only: Sql): Sql;
  /** A FROM item with the first days of the calendar units from one date to another, in the column `period`. */
  calendar(from: Sql, to: Sql, unit: Unit, alias: Sql): Sql;
}

/** How values are written in text; patterns that RE2 and PostgreSQL's regular expressions read alike. */
export const written = {
  integer: '[+-]?[0-9]{1,40}',
  decimal: '[+-]?([0-9]{1,40}([.][0-9]{0,100})?|[.][0-9]{1,100})',
  float: '[+-]?([0-9]{1,40}([.][0-9]{0,100})?|[.][0-9]{1,100})([eE][+-]?[0-9]{1,2})?',
  date: '[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])',
  instant:
    '[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])[T ]([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9]([.][0-9]{1,6})?)?(Z|[+-](0[0-9]|1[0-4])(:?[0-5][0-9])?)?',
  /** A number with zeros in front: a code, which a number would spoil. */
  padded: '[+-]?0[0-9]+([.][0-9]*)?',
  /** A moment that does not say by which zone's clocks. */
  local:
    '[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])[T ]([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9]([.][0-9]{1,6})?)?',
} as const;
