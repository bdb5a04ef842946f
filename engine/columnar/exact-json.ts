import { createReadStream } from 'node:fs';
import { literalText } from './quote.ts';

/*
 * DuckDB reads JSON numbers with a point through a double, which keeps 15 digits of any and loses what is beyond, and writes
 * those of less than 0.0001 with an exponent. Both are made texts in the JSON before it is read, so that they arrive as they
 * were written.
 */

/** Every number has at most this many digits that a double gives it back as it was written (IEEE 754: 15 decimal digits). */
export const safeDigits = 15;

/** What a number of less than 0.0001 begins with. */
export const tinyBeginning = '0.0000';
const tiny = tinyBeginning.replace('.', '[.]');

/** Where a value may stand, more digits and points than are safe, or a tiny number: what may be lost, found quickly. */
const maybeLong = String.raw`[:,\[]\s*-?(?:[0-9.]{${safeDigits + 2}}|${tiny})`;

/** A number with a point and more digits than are safe, however many stand before the point; or a tiny one. */
const long = [
  ...Array.from({ length: safeDigits }, (_, at) => `[0-9]{${at + 1},}[.][0-9]{${safeDigits - at},}`),
  // Not the end of a greater one, as 10.00001 is.
  String.raw`\b${tiny}[0-9]+`,
].join('|');
/** A whole text, so that nothing in one is taken for a number; else a long or tiny number, with its exponent. */
const textOrLong = String.raw`("(?:[^"\\]|\\.)*")|(-?(?:${long})(?:[eE][-+]?[0-9]+)?)`;
/** JSON holds no control characters (RFC 8259, section 7). */
const mark = '\u001f';

const [zero, nine, point, minus] = [...Buffer.from('09.-')] as [number, number, number, number];
const before = new Set(Buffer.from(':,['));
const spaces = new Set(Buffer.from(' \t\n\r'));
const isDigit = (byte: number | undefined): boolean =>
  byte !== undefined && ((byte >= zero && byte <= nine) || byte === point);

const longRun = safeDigits + 2;
/** A run of this many digits has one of them at one place in that many, so that few bytes have to be looked at. */
const leastRun = tinyBeginning.length + 1;
const tinyBytes = Buffer.from(tinyBeginning);

/** Whether a piece of JSON may hold numbers that would lose digits. What stands at its very beginning may go on from before. */
function holdsLong(piece: Buffer): boolean {
  for (let at = leastRun - 1; at < piece.length; at += leastRun) {
    if (!isDigit(piece[at])) continue;
    let from = at;
    while (from > 0 && isDigit(piece[from - 1])) from -= 1;
    let to = at + 1;
    while (to < piece.length && isDigit(piece[to])) to += 1;
    const isTiny = to - from >= leastRun && tinyBytes.compare(piece, from, from + tinyBytes.length) === 0;
    if (isTiny || to - from >= longRun) {
      if (from > 0 && piece[from - 1] === minus) from -= 1;
      while (from > 0 && spaces.has(piece[from - 1] ?? 0)) from -= 1;
      if (from === 0 || before.has(piece[from - 1] ?? 0)) return true;
    }
    at = Math.max(at, to - (to % leastRun) - 1);
  }
  return false;
}

/** Bytes of a piece that a file is read in, and of its end that the next one begins with. */
const pieceBytes = 1 << 20;
const overlap = 128;

/** Whether a file of JSON may hold numbers that would lose digits; a few that would not are taken for such. */
export async function mayHoldLong(file: string): Promise<boolean> {
  let end = Buffer.alloc(0);
  for await (const piece of createReadStream(file, { highWaterMark: pieceBytes })) {
    const both = Buffer.concat([end, piece as Buffer]);
    if (holdsLong(both)) return true;
    end = both.subarray(-overlap);
  }
  return false;
}

/** SQL that tells whether a JSON text may hold numbers that would lose digits. */
export const mayLoseDigits = (json: string): string => `regexp_matches(${json}, ${literalText(maybeLong)})`;

/** SQL of a JSON text whose long and tiny numbers have become texts; every other text stays as it is. */
export const exactJson = (json: string): string =>
  `CASE WHEN ${mayLoseDigits(json)} THEN replace(replace(regexp_replace(${json}, ${literalText(textOrLong)}, '\\1${mark}\\2${mark}', 'g'), '${mark}${mark}', ''), '${mark}', '"') ELSE ${json} END`;
