import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric } from '#core/value/field/value.ts';

/**
 * What the texts of a column look like, counted over all records. Blanks (null, empty) are not among `filled`. Each kind
 * counts the texts that can be read as it: whole numbers are decimals too, and dates are no instants.
 */
export interface Looks {
  readonly filled: number;
  readonly integers: number;
  readonly decimals: number;
  readonly floats: number;
  readonly booleans: number;
  readonly dates: number;
  readonly instants: number;
  readonly nested: number;
  /** Whole numbers written with zeros in front, such as 007: codes, which a number would spoil. */
  readonly padded: number;
  /** The most digits before and after the point. */
  readonly wholeDigits: number;
  readonly decimalDigits: number;
}

export interface Guess {
  readonly type: FieldType;
  /**
   * The type that most of the column has, and how many of its texts do not: a column that changes its type half-way is
   * text, so that nothing in it is lost, and this says why.
   */
  readonly nearly?: { readonly type: FieldType; readonly others: number };
}

/** DuckDB's DECIMAL and what we bind have 38 digits. */
export const mostDigits = 38;
/** A column nearly of a type is one with at most this share of other texts. */
const nearlyShare = 0.2;

/** The type of a column, from all of its texts. */
export function guessType(looks: Looks): Guess {
  const { filled } = looks;
  if (filled === 0) return { type: 'text' };
  const fits: [FieldType, number][] = [
    ['boolean', looks.booleans],
    ['integer', looks.padded > 0 ? 0 : looks.integers],
    [
      'decimal',
      looks.padded > 0 || looks.wholeDigits + looks.decimalDigits > mostDigits ? 0 : looks.decimals,
    ],
    ['float', looks.padded > 0 ? 0 : looks.floats],
    ['date', looks.dates],
    ['instant', looks.instants],
    ['nested', looks.nested],
  ];
  const whole = fits.find(([, count]) => count === filled);
  if (whole) return { type: whole[0] };
  const [type, most] = fits.reduce((best, each) => (each[1] > best[1] ? each : best));
  const others = filled - most;
  return most > 0 && others / filled <= nearlyShare
    ? { type: 'text', nearly: { type, others } }
    : { type: 'text' };
}

const isPlain = (type: FieldType): boolean => isNumeric(type) || type === 'boolean';

/** The same of a column of JSON; `isWrittenAsText`: its values are texts there, and what looks like a number is none. */
export function guessJsonType(looks: Looks, isWrittenAsText: boolean): Guess {
  const guess = guessType(looks);
  const isNumber = isPlain(guess.type) || (guess.nearly !== undefined && isPlain(guess.nearly.type));
  return isWrittenAsText && isNumber ? { type: 'text' } : guess;
}
