/* The marks that numbers are written with: between thousands, and before decimals. Numbers themselves always have a point. */

export const numberStyles = ['point', 'comma', 'space'] as const;
export type NumberStyle = (typeof numberStyles)[number];

interface Marks {
  readonly thousands: string;
  readonly decimals: string;
}

/** The space is a narrow one that no line is broken at (U+202F). */
const marks: Readonly<Record<NumberStyle, Marks>> = {
  point: { thousands: ',', decimals: '.' },
  comma: { thousands: '.', decimals: ',' },
  space: { thousands: '\u202F', decimals: ',' },
};

let styleNow: () => NumberStyle = () => 'point';

/**
 * Says where the style of whoever reads comes from: in a browser it is that of the page, on a server that of the request. It is asked
 * each time that a number is written.
 */
export function writeNumbersIn(style: () => NumberStyle): void {
  styleNow = style;
}

/** A number that was written with a comma and a point, in the style of whoever reads. */
export function inStyle(written: string): string {
  const style = styleNow();
  if (style === 'point') return written;
  const { thousands, decimals } = marks[style];
  return written.replace(/[,.]/g, (mark) => (mark === ',' ? thousands : decimals));
}

/** The style of whoever reads. */
export const numberStyle = (): NumberStyle => styleNow();

/** What decimals are written behind, in the style of whoever reads. */
export const decimalMark = (): 'point' | 'comma' => (styleNow() === 'point' ? 'point' : 'comma');

const swapped = (text: string): string =>
  decimalMark() === 'point' ? text : text.replace(/[,.]/g, (mark) => (mark === ',' ? '.' : ','));

/** A number’s text, with a point, as whoever reads would type it; and what they typed, with a point. Thousands are not marked in either. */
export const asTyped = swapped;
export const fromTyped = swapped;

const groups = {
  point: /,(?=\d{3}(\D|$))/g,
  comma: /\.(?=\d{3}(\D|$))/g,
  space: /[ \u00A0\u202F](?=\d{3}(\D|$))/g,
};
const grouped = {
  point: /^[+-]?\d{1,3}(,\d{3})+(\.\d+)?$/,
  comma: /^[+-]?\d{1,3}(\.\d{3})+,\d+$/,
  space: /^[+-]?\d{1,3}([ \u00A0\u202F]\d{3})+(,\d+)?$/,
};

/**
 * A number as it stands in a spreadsheet of whoever reads, with a point and without marks between thousands. A spreadsheet may also
 * have been written by a program, with a point: where that could be meant as well and would be another number ("1.234"), it is left
 * such that it is refused.
 */
export function fromSpreadsheet(text: string): string {
  const style = styleNow();
  const plain = grouped[style].test(text) ? text.replace(groups[style], '') : text;
  if (style === 'point') return plain;
  const couldBeTwo = style === 'comma' && /^[+-]?\d{1,3}(\.\d{3})+$/.test(text);
  return couldBeTwo || plain.includes(',') ? fromTyped(plain) : plain;
}
