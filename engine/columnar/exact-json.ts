import { literalText } from './quote.ts';

/*
 * DuckDB reads JSON numbers with a point through a double, which keeps 15 digits of any and loses what is beyond. Numbers
 * of more digits are made texts in the JSON before it is read, so that they arrive as they were written.
 */

/** Every number has at most so many digits that a double gives it back as it was written (IEEE 754: 15 decimal digits). */
const safeDigits = 15;

/** Digits and a point where a value may stand, more of them than are safe: what may be too long, found quickly. */
const maybeLong = String.raw`[:,\[]\s*-?[0-9.]{${safeDigits + 2}}`;

/** A number with a point and more digits than are safe, however many stand before the point. */
const long = Array.from(
  { length: safeDigits },
  (_, at) => `[0-9]{${at + 1},}[.][0-9]{${safeDigits - at},}`,
).join('|');
/** A whole text, so that nothing in one is taken for a number; else a long number, with its exponent. */
const textOrLong = String.raw`("(?:[^"\\]|\\.)*")|(-?(?:${long})(?:[eE][-+]?[0-9]+)?)`;
/** JSON holds no control characters (RFC 8259, section 7). */
const mark = '\u001f';

/** SQL that tells whether a JSON text may hold numbers that would lose digits. */
export const mayLoseDigits = (json: string): string => `regexp_matches(${json}, ${literalText(maybeLong)})`;

/** SQL of a JSON text whose long numbers have become texts; every other text stays as it is. */
export const exactJson = (json: string): string =>
  `CASE WHEN ${mayLoseDigits(json)} THEN replace(replace(regexp_replace(${json}, ${literalText(textOrLong)}, '\\1${mark}\\2${mark}', 'g'), '${mark}${mark}', ''), '${mark}', '"') ELSE ${json} END`;
