import type { Field } from '#core/value/field/field.ts';
import type { Format } from '#core/value/field/format.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import { inStyle } from '#core/value/number-style.ts';
import { startOfDayIn } from '#core/value/period/period.ts';
import type { Cycle, Unit } from '#core/value/period/units.ts';

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
  const format = new Intl.NumberFormat(locale, {
    style,
    minimumFractionDigits: least,
    maximumFractionDigits: most,
    roundingMode: 'halfExpand',
  } as Intl.NumberFormatOptions);
  numbers.set(key, format);
  return format;
}

const dates = new Map<string, Intl.DateTimeFormat>();
function dateFormat(options: Intl.DateTimeFormatOptions, zone: string): Intl.DateTimeFormat {
  const key = `${zone} ${JSON.stringify(options)}`;
  const known = dates.get(key);
  if (known) return known;
  const format = new Intl.DateTimeFormat(locale, { ...options, timeZone: zone });
  dates.set(key, format);
  return format;
}

/** Intl reads decimal text exactly (ECMA-402, ToIntlMathematicalValue), so no digit passes through a float. */
const exactly = (text: string): Intl.StringNumericLiteral => text as Intl.StringNumericLiteral;

/** Beyond this many places after the point a number is written with a power of ten. */
const mostPlaces = 6;
const tiny = new Intl.NumberFormat(locale, { notation: 'scientific', maximumSignificantDigits: 3 });
const small = new Intl.NumberFormat(locale, { maximumSignificantDigits: 2 });

/**
 * A number's text as readers write it. `decimals` fixes how many; without it up to two are shown, and more where it would
 * else be written as nothing though it is something.
 */
export const formatNumber = (text: string, decimals?: number): string => inStyle(withMarks(text, decimals));

/** A number with commas between thousands, and a point before decimals. */
function withMarks(text: string, decimals?: number): string {
  const written = numberFormat(decimals ?? 0, decimals ?? 2).format(exactly(text));
  const isNothing = !/[1-9∞N]/.test(written);
  if (isNothing && decimals === undefined && /[1-9]/.test(text.replace(/e.*$/i, ''))) {
    const isTiny = Math.abs(Number(text)) < 10 ** -mostPlaces;
    return (isTiny ? tiny : small).format(exactly(text)).replaceAll('-', '−');
  }
  return (isNothing ? written.replace('-', '') : written).replace('-', '−');
}

/** Bytes as people write them, in powers of ten. */
export const formatBytes = (bytes: number): string =>
  bytes < 1e6
    ? `${formatNumber(String(Math.ceil(bytes / 1e3)))} kB`
    : `${formatNumber(String(Math.round(bytes / 1e5) / 10))} MB`;

/** A text of a number without thousands marks, as years and identifiers are written. */
const plainNumber = (text: string): string => text.replace('-', '−');

/** How many decimals the numbers of a column share when none are said: the most that one of them needs, up to two. */
export function sharedDecimals(texts: readonly string[]): number {
  const places = texts.map((text) => /\.(\d*[1-9])/.exec(withMarks(text))?.[1]?.length ?? 0);
  return Math.min(2, Math.max(0, ...places));
}

/**
 * How the numbers of a column are written so that their points stand under each other: with as many decimals as the one that needs
 * most. Null where the field says how, or where they have no decimals.
 */
export function alignedFormat(
  {
    type,
    unit,
    format,
    states,
  }: Pick<Field, 'type' | 'format' | 'states'> & { readonly unit?: string | undefined },
  texts: () => readonly string[],
): Format | null {
  if (format || states || (type !== 'decimal' && type !== 'float')) return null;
  return { kind: 'number', decimals: isCurrency(unit) ? 2 : sharedDecimals(texts()) };
}

/** Whether a unit is a sign of money, which stands before the amount. */
export const isCurrency = (unit: string | undefined): boolean => unit !== undefined && /^\p{Sc}$/u.test(unit);

/** A written number with its unit: "£5,162.75", "12 min". */
export function withUnit(written: string, unit: string | undefined): string {
  if (unit === undefined || unit === '' || written === blank) return written;
  if (!isCurrency(unit)) return `${written} ${unit}`;
  return written.startsWith('−') ? `−${unit}${written.slice(1)}` : `${unit}${written}`;
}

/** Names that years and identifiers go by, whose numbers nobody counts with. */
const plainNames = /(^|[_ -])(year|id|ref|code|no|number|zip|postcode|phone|port)$/i;

/** A ratio's text as a percentage. */
export const formatPercent = (text: string, decimals = 0): string =>
  inStyle(numberFormat(decimals, decimals, 'percent').format(exactly(text)).replace('-', '−'));

const momentStyles: Record<string, Intl.DateTimeFormatOptions> = {
  short: { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' },
  time: { hour: '2-digit', minute: '2-digit' },
  second: { hour: '2-digit', minute: '2-digit', second: '2-digit' },
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

/** The zone that values are read in, with the moment of reading where it is known: then its year goes without saying. */
export type ReadBy = string | { readonly zone: string; readonly now: Date };

export const zoneOf = (by: ReadBy): string => (typeof by === 'string' ? by : by.zone);
const isThisYear = (at: Date, by: ReadBy, zone = zoneOf(by)): boolean =>
  typeof by !== 'string' && yearIn(at, zone) === yearIn(by.now, zoneOf(by));
const yearIn = (at: Date, zone: string): string =>
  dateFormat({ year: 'numeric', era: 'short' }, zone).format(at);

/** The style without the year where that is this year's; with the era where it is before our own. */
function withYear(
  style: Intl.DateTimeFormatOptions,
  at: Date,
  isUnsaid: boolean,
): Intl.DateTimeFormatOptions {
  const { year, ...rest } = style;
  if (year === undefined) return style;
  if (isUnsaid) return rest;
  return at.getUTCFullYear() < 1 ? { ...style, era: 'short' } : style;
}

/** A UTC instant as readers of a zone write it; what is no instant ("infinity") is shown as it came. */
export function formatMoment(text: string, by: ReadBy, style = 'short'): string {
  const at = new Date(text);
  if (style === 'iso' || Number.isNaN(at.getTime())) return text;
  const isUnsaid = style === 'short' && isThisYear(at, by);
  return dateFormat(withYear(momentStyles[style] ?? {}, at, isUnsaid), zoneOf(by)).format(at);
}

/** A calendar date, which has no zone; `by` says what year it is. */
export function formatDate(text: string, style = 'short', by: ReadBy = 'UTC'): string {
  const at = new Date(`${text}T00:00:00Z`);
  if (style === 'iso' || Number.isNaN(at.getTime())) return text;
  const isUnsaid = style === 'short' && isThisYear(at, by, 'UTC');
  return dateFormat(withYear(dateStyles[style] ?? {}, at, isUnsaid), 'UTC').format(at);
}

/** A value as text, by its field's format or else its type. Units stand in headers, not here. */
export function formatCell(
  cell: Cell | undefined,
  field: {
    readonly name?: string;
    readonly type: FieldType;
    readonly unit?: string | undefined;
    readonly format?: Format | undefined;
    readonly states?: Field['states'];
  },
  by: ReadBy,
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
      return formatNumber(text, format.decimals ?? (isCurrency(field.unit) ? 2 : undefined));
    case 'date':
      return type === 'instant'
        ? formatDate(dayText(text, zoneOf(by)), format.style, by)
        : formatDate(text, format.style, by);
    case 'moment':
      return formatMoment(text, by, format.style);
    case 'id':
    case 'picture':
    case 'link':
      return text;
  }
  switch (type) {
    case 'integer':
      return plainNames.test(field.name ?? '') ? plainNumber(text) : formatNumber(text);
    case 'decimal':
    case 'float':
      return formatNumber(text, isCurrency(field.unit) ? 2 : undefined);
    case 'boolean':
      return cell === true || text === 'true' ? 'Yes' : 'No';
    case 'date':
      return formatDate(text, 'short', by);
    case 'instant':
      return formatMoment(text, by);
    case 'text':
    case 'nested':
      return text;
  }
}

const dayText = (instant: string, zone: string): string =>
  new Intl.DateTimeFormat('en-CA', { timeZone: zone }).format(new Date(instant));

/** Monday is the first. */
const weekdays = Array.from({ length: 7 }, (_, day) => new Date(Date.UTC(2024, 0, 1 + day)));

/** What comes round again, by its number: "06:00", "Mon", "Jan". */
export function formatCycle(number: Cell, cycle: Cycle): string {
  if (number === null) return blank;
  const at = Number(number);
  if (cycle === 'hourOfDay') return `${String(at).padStart(2, '0')}:00`;
  if (cycle === 'weekday') {
    const day = weekdays[at - 1];
    return day ? dateFormat({ weekday: 'short' }, 'UTC').format(day) : String(number);
  }
  return dateFormat({ month: 'short' }, 'UTC').format(new Date(Date.UTC(2024, at - 1, 1)));
}

/** The label of one unit on a time axis; `start` is its first day, or its instant for hours. */
export function formatUnit(start: string, unit: Unit, by: ReadBy): string {
  const at = unit === 'hour' ? new Date(start) : startOfDayIn(start, 'UTC');
  if (Number.isNaN(at.getTime())) return start;
  const write = (options: Intl.DateTimeFormatOptions, where = 'UTC') =>
    dateFormat(withYear(options, at, isThisYear(at, by, where)), where).format(at);
  switch (unit) {
    case 'hour':
      return write(
        { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' },
        zoneOf(by),
      );
    case 'day':
    case 'week':
      return write({ day: 'numeric', month: 'short', year: 'numeric' });
    case 'month':
      return dateFormat({ month: 'short', year: 'numeric' }, 'UTC').format(at);
    case 'quarter':
      return `Q${Math.floor(at.getUTCMonth() / 3) + 1} ${at.getUTCFullYear()}`;
    case 'year':
      return String(at.getUTCFullYear());
  }
}
