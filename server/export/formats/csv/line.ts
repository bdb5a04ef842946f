import type { FieldType } from '#core/value/field/types.ts';
import { type Cell, isNumeric } from '#core/value/field/value.ts';

/** What a spreadsheet would run as a formula when it opens a text cell that begins so (OWASP, CSV injection). */
const formula = /^[=+\-@\t\r]/;

/**
 * One line of CSV (RFC 4180), with its line end. Numbers are written with all their digits; a text that a spreadsheet
 * would run as a formula gets an apostrophe in front, which spreadsheets take for "this is text".
 */
export function csvLine(cells: readonly Cell[], types: readonly FieldType[]): string {
  const written = cells.map((cell, at) => {
    if (cell === null) return '';
    const type = types[at] ?? 'text';
    const text = String(cell);
    const safe = !isNumeric(type) && formula.test(text) ? `'${text}` : text;
    return /[",\r\n]/.test(safe) || safe === '' || safe !== safe.trim()
      ? `"${safe.replaceAll('"', '""')}"`
      : safe;
  });
  return `${written.join(',')}\r\n`;
}
