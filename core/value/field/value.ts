import { asTyped, fromTyped } from '../number-style.ts';
import type { Field } from './field.ts';
import type { FieldType } from './types.ts';

/**
 * One value of a record. Integers and decimals are strings so that no digit passes through a float; dates are
 * `YYYY-MM-DD`; instants are UTC, `YYYY-MM-DDTHH:MM:SS[.ffffff]Z` (ISO 8601).
 */
export type Cell = string | number | boolean | null;

/** A cell as the text that it is staged as; blank stays blank. */
export const cellText = (cell: Cell): string | null => (cell === null ? null : String(cell));

export const isNumeric = (type: FieldType): boolean =>
  type === 'integer' || type === 'decimal' || type === 'float';

export const isTemporal = (type: FieldType): boolean => type === 'date' || type === 'instant';

const integer = /^[+-]?\d{1,40}$/;
/** NaN and infinity are values of numeric and double precision too (PostgreSQL, 8.1). */
const decimal = /^([+-]?(\d{1,100}(\.\d{0,100})?|\.\d{1,100}|Infinity)|NaN)$/i;
const float = /^([+-]?((\d+(\.\d*)?|\.\d+)(e[+-]?\d{1,3})?|Infinity)|NaN)$/i;
const date = /^(\d{4})-(\d{2})-(\d{2})$/;
const instant = /^(\d{4}-\d{2}-\d{2})T([01]\d|2[0-3]):[0-5]\d(:[0-5]\d(\.\d{1,6})?)?Z$/;

/** PostgreSQL's and DuckDB's signed 64-bit range; a longer whole number is refused rather than rounded. */
const int64 = { least: -(2n ** 63n), greatest: 2n ** 63n - 1n };

export type Parsed = { ok: true; value: string } | { ok: false; why: string };

const no = (why: string): Parsed => ({ ok: false, why });
const yes = (value: string): Parsed => ({ ok: true, value });

function isCalendarDate(text: string): boolean {
  const found = date.exec(text);
  if (!found) return false;
  const [year, month, day] = [Number(found[1]), Number(found[2]), Number(found[3])];
  const at = new Date(Date.UTC(year, month - 1, day));
  return year > 0 && at.getUTCMonth() === month - 1 && at.getUTCDate() === day;
}

/** Reads what a person or an address wrote as a value of a type. Returns the canonical text, or why it is not one. */
export function parseValue(type: FieldType, raw: string): Parsed {
  const text = raw.trim();
  switch (type) {
    case 'integer': {
      if (!integer.test(text)) return no(`“${asTyped(text)}” is not a whole number`);
      const value = BigInt(text.replace(/^\+/, ''));
      if (value < int64.least || value > int64.greatest)
        return no(`“${asTyped(text)}” is too large a whole number`);
      return yes(value.toString());
    }
    case 'decimal':
      return decimal.test(text) ? yes(text.replace(/^\+/, '')) : no(`“${asTyped(text)}” is not a number`);
    case 'float':
      return float.test(text) ? yes(text.replace(/^\+/, '')) : no(`“${asTyped(text)}” is not a number`);
    case 'boolean':
      if (/^(true|yes|1)$/i.test(text)) return yes('true');
      if (/^(false|no|0)$/i.test(text)) return yes('false');
      return no(`“${text}” is neither yes nor no`);
    case 'date':
      return isCalendarDate(text) ? yes(text) : no(`“${text}” is not a date such as 2026-11-23`);
    case 'instant': {
      const found = instant.exec(text);
      return found?.[1] && isCalendarDate(found[1])
        ? yes(text)
        : no(`“${text}” is not a moment such as 2026-11-23T06:40:00Z`);
    }
    case 'text':
    case 'nested':
      return raw.includes('\0') ? no('text cannot hold a NUL character') : yes(raw);
  }
}

/** How a value of a type is shown while it is typed, and what was typed as {@link parseValue} reads it. */
export const typingOf = (type: FieldType): readonly [(value: string) => string, (typed: string) => string] =>
  isNumeric(type) ? [asTyped, fromTyped] : [String, String];

/** What a field means across data sets: the key it points at, else the column it comes from. */
export const meaningOf = (field: Field): string | undefined => field.refers ?? field.origin;

/** The field's label for readers; a bare name is made readable ("departs_at" → "Departs at"). */
export function labelOf(field: Pick<Field, 'name' | 'label'>): string {
  if (field.label) return field.label;
  const words = field.name.replaceAll('_', ' ').trim();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
