import type { Field } from '#core/field/field.ts';
import type { FieldType } from '#core/field/types.ts';
import type { Cell } from '#core/field/value.ts';
import { startOfDayIn } from '#core/period/period.ts';
import type { Unit } from '#core/period/units.ts';
import type { Format } from './schema.ts';

/** Written where there is no value. */
export const blank = '—';
const locale = 'en-GB';

const numbers = new Map<string, Intl.NumberFormat>();
function numberFormat(
  least: number,
  most: number,
  style: 'decimal' | 'percent' = 'decimal',
): Intl.NumberFormat {
  const key = `${style} ${least} ${most}`;
  const known = numbers.get(key);
  if (known) return known;
  const made = new Intl.NumberFormat(locale, {
    style,
    minimumFractionDigits: least,
    maximumFractionDigits: most,
    roundingMode: 'halfExpand',
  } as Intl.NumberFormatOptions);
  numbers.set(key, made);
  return made;
}

const dates = new Map<string, Intl.DateTimeFormat>();
function dateFormat(options: Intl.DateTimeFormatOptions, zone: string): Intl.DateTimeFormat {
  const key = `${zone} ${JSON.stringify(options)}`;
  const known = dates.get(key);
  if (known) return known;
  const made = new Intl.DateTimeFormat(locale, { ...options, timeZone: zone });
  dates.set(key, made);
  return made;
}

/** Intl reads decimal text exactly (ECMA-402, ToIntlMathematicalValue), so no digit passes through a float. */
const exactly = (text: string): Intl.StringNumericLiteral => text as Intl.StringNumericLiteral;

/** A number's text as readers write it. `decimals` fixes how many; without it up to two are shown. */
export function formatNumber(text: string, decimals?: number): string {
  return numberFormat(decimals ?? 0, decimals ?? 2)
    .format(exactly(text))
    .replace('-', '−');
}

/** A ratio's text as a percentage. */
export const formatPercent = (text: string, decimals = 0): string =>
  numberFormat(decimals, decimals, 'percent').format(exactly(text)).replace('-', '−');

const momentStyles: Record<string, Intl.DateTimeFormatOptions> = {
  short: { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' },
  time: { hour: '2-digit', minute: '2-digit' },
  long: {
    weekday: 'short',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  },
};
const dateStyles: Record<string, Intl.DateTimeFormatOptions> = {
  short: { day: 'numeric', month: 'short', year: 'numeric' },
  long: { weekday: 'long', day: 'numeric', month: 'long', year: 'numeric' },
};

/** A UTC instant as readers of a zone write it; what is no instant ("infinity") is shown as it came. */
export function formatMoment(text: string, zone: string, style = 'short'): string {
  const at = new Date(text);
  if (style === 'iso' || Number.isNaN(at.getTime())) return text;
  return dateFormat(momentStyles[style] ?? {}, zone).format(at);
}

/** A calendar date, which has no zone. */
export function formatDate(text: string, style = 'short'): string {
  const at = new Date(`${text}T00:00:00Z`);
  if (style === 'iso' || Number.isNaN(at.getTime())) return text;
  return dateFormat(dateStyles[style] ?? {}, 'UTC').format(at);
}

/** A value as text, by its field's format or else its type. Units stand in headers, not here. */
export function formatCell(
  cell: Cell | undefined,
  field: { type: FieldType; format?: Format | undefined; states?: Field['states'] },
  zone: string,
): string {
  if (cell === null || cell === undefined) return blank;
  const text = String(cell);
  const state = field.states?.find(({ value }) => value === text);
  if (state) return state.word;
  const { format, type } = field;
  switch (format?.kind) {
    case 'percent':
      return formatPercent(text, format.decimals);
    case 'number':
      return formatNumber(text, format.decimals);
    case 'date':
      return type === 'instant'
        ? formatDate(dayText(text, zone), format.style)
        : formatDate(text, format.style);
    case 'moment':
      return formatMoment(text, zone, format.style);
    case 'id':
    case 'picture':
    case 'link':
      return text;
  }
  switch (type) {
    case 'integer':
    case 'decimal':
    case 'float':
      return formatNumber(text);
    case 'boolean':
      return cell === true || text === 'true' ? 'Yes' : 'No';
    case 'date':
      return formatDate(text);
    case 'instant':
      return formatMoment(text, zone);
    case 'text':
    case 'nested':
      return text;
  }
}

const dayText = (instant: string, zone: string): string =>
  new Intl.DateTimeFormat('en-CA', { timeZone: zone }).format(new Date(instant));

/** The label of one unit on a time axis; `start` is its first day, or its instant for hours. */
export function formatUnit(start: string, unit: Unit, zone: string): string {
  const at = unit === 'hour' ? new Date(start) : startOfDayIn(start, 'UTC');
  if (Number.isNaN(at.getTime())) return start;
  const write = (options: Intl.DateTimeFormatOptions, where = 'UTC') => dateFormat(options, where).format(at);
  switch (unit) {
    case 'hour':
      return write({ day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }, zone);
    case 'day':
    case 'week':
      return write({ day: 'numeric', month: 'short' });
    case 'month':
      return write({ month: 'short', year: 'numeric' });
    case 'quarter':
      return `Q${Math.floor(at.getUTCMonth() / 3) + 1} ${at.getUTCFullYear()}`;
    case 'year':
      return String(at.getUTCFullYear());
  }
}
