import type { InstantSpan } from '#core/plan/span.ts';
import {
  type BoundValue,
  bind,
  comma,
  identifier,
  join,
  ordinal,
  type Sql,
  sql,
} from '#core/sql/fragment.ts';
import { cycleNames, unitNames } from '#core/sql/unit.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { offsetsOf } from '#core/value/period/offsets.ts';
import { type Dialect, isWholeWidth } from '../dialect.ts';
import { duckdbScalar } from './scalar.ts';

/** The type of the column that a field is kept in; `scale` and `digits` are for decimals. */
export function columnType(type: FieldType, scale = 0, digits = 38): string {
  switch (type) {
    case 'text':
    case 'nested':
      return 'VARCHAR';
    case 'integer':
      return 'BIGINT';
    case 'decimal':
      return `DECIMAL(${Math.trunc(digits)}, ${Math.trunc(scale)})`;
    case 'float':
      return 'DOUBLE';
    case 'boolean':
      return 'BOOLEAN';
    case 'date':
      return 'DATE';
    case 'instant':
      return 'TIMESTAMP';
  }
}

/** A bound decimal takes the digits it has, so that comparing loses none (DuckDB has 38). */
function boundType({ type, value }: BoundValue): string {
  if (Array.isArray(value)) return `${columnType(type)}[]`;
  if (type !== 'decimal' || typeof value !== 'string') return columnType(type);
  const [whole = '', part = ''] = value.replace(/^[+-]/, '').split('.');
  const digits = whole.length + part.length;
  return digits > 38 || !/\d/.test(value)
    ? 'DOUBLE'
    : columnType('decimal', part.length, Math.max(1, digits));
}

type Span = InstantSpan | undefined;

/** How many seconds local time is ahead of UTC at an instant: a ladder of the zone's changes, the latest first. */
function offsetSql(value: Sql, zone: string, span: Span): Sql {
  const [oldest, ...changes] = offsetsOf(zone, span);
  const base = ordinal(oldest?.seconds ?? 0);
  if (changes.length === 0) return base;
  const steps = [...changes]
    .reverse()
    .map(({ from, seconds }) => sql` WHEN ${value} >= ${bind('instant', from)} THEN ${ordinal(seconds)}`);
  return sql`(CASE${join(steps, sql``)} ELSE ${base} END)`;
}

const isText = (type: FieldType): boolean => type === 'text' || type === 'nested';
const sortKey = (value: Sql): Sql => sql`icu_sort_key(${value}, 'root')`;

/** How far local time is ahead of UTC at an instant, as an interval; null in a zone that is UTC for all of a span. */
function aheadSql(value: Sql, zone: string, span: Span): Sql | null {
  const [only, ...changes] = offsetsOf(zone, span);
  if (only?.seconds === 0 && changes.length === 0) return null;
  return sql`to_seconds(${offsetSql(value, zone, span)})`;
}

function localSql(value: Sql, zone: string, span: Span): Sql {
  const ahead = aheadSql(value, zone, span);
  return ahead ? sql`(${value} + ${ahead})` : value;
}

/**
 * DuckDB 1.5, over records we keep. Instants are UTC TIMESTAMPs, shifted by the offsets of the zone; text is ordered as
 * the root of the Unicode Collation Algorithm has it (UTS #10), then by code point. `exact_quotient` is a macro of the
 * engine (see engine/columnar).
 */
export const duckdb: Dialect = {
  scalar: duckdbScalar((value, zone) => localSql(value, zone, undefined)),
  placeholder: (index, value) => `CAST($${index} AS ${boundType(value)})`,
  read(column, how) {
    switch (how) {
      case 'text':
        return sql`CAST(${column} AS VARCHAR)`;
      case 'utc':
        return column;
      case 'number':
        return sql`CAST(${column} AS DECIMAL(38, 9))`;
      case 'whole':
        return sql`CAST(${column} AS BIGINT)`;
    }
  },
  periodStart(value, type, unit, zone, span) {
    const name = unitNames[unit];
    if (type === 'date') return sql`CAST(date_trunc(${name}, ${value}) AS DATE)`;
    const local = localSql(value, zone, span);
    if (unit === 'hour') {
      const ahead = aheadSql(value, zone, span);
      return ahead ? sql`(date_trunc(${name}, ${local}) - ${ahead})` : sql`date_trunc(${name}, ${local})`;
    }
    if (unit === 'day') return sql`CAST(${local} AS DATE)`;
    return sql`CAST(date_trunc(${name}, ${local}) AS DATE)`;
  },
  cyclePart(value, type, cycle, zone, span) {
    const local = type === 'date' ? sql`CAST(${value} AS TIMESTAMP)` : localSql(value, zone, span);
    return sql`CAST(extract(${cycleNames[cycle]} FROM ${local}) AS BIGINT)`;
  },
  binNumber(value, type, { width, first, last }) {
    const within = (number: Sql): Sql =>
      sql`CAST(least(greatest(${number}, ${ordinal(first)}), ${ordinal(last)}) AS BIGINT)`;
    if (type === 'float') {
      // A float is a little off where its decimal is not: 0.3 is not below 0.3.
      const place = sql`least(greatest(${value} / ${bind('float', width)}, ${ordinal(first)}), ${ordinal(last)} + 0.5)`;
      return sql`(CASE WHEN NOT isnan(${value}) THEN ${within(sql`floor(round(${place}, 12))`)} END)`;
    }
    if (type === 'integer' && isWholeWidth(width)) {
      const whole = bind('integer', width);
      return sql`(CASE WHEN ${value} IS NOT NULL THEN ${within(sql`${value} // ${whole} - CAST(${value} % ${whole} < 0 AS BIGINT)`)} END)`;
    }
    // What is left over is exact, and so is the quotient of the rest, as far as ranges are numbered.
    const exact = type === 'integer' ? sql`CAST(${value} AS DECIMAL(38, 0))` : value;
    const past = sql`(${exact} % ${bind('decimal', width)})`;
    const number = sql`round((${exact} - ${past}) / ${bind('decimal', width)}) - CAST(${past} < 0 AS INTEGER)`;
    return sql`(CASE WHEN ${value} IS NOT NULL THEN ${within(number)} END)`;
  },
  folded: (value) => sql`lower(${value})`,
  matches(value, typed, at) {
    const [text, part] = [sql`lower(CAST(${value} AS VARCHAR))`, sql`lower(${bind('text', typed)})`];
    switch (at) {
      case 'anywhere':
        return sql`contains(${text}, ${part})`;
      case 'start':
        return sql`starts_with(${text}, ${part})`;
      case 'end':
        return sql`suffix(${text}, ${part})`;
    }
  },
  // A list of texts is one value, so that a statement which is prepared serves however many there are. Of other values the engine sees
  // from the bounds of a part of the records that none of them is there, but only where each is a value of its own.
  isOneOf: (value, type, values) =>
    columnType(type) === 'VARCHAR'
      ? sql`list_contains(${bind(type, values)}, ${value})`
      : sql`${value} IN (${join(
          values.map((each) => bind(type, each)),
          comma,
        )})`,
  // Quicker than a filter, which picks records out for each aggregate by itself; of no records at all it is blank.
  countIf: (condition) => sql`coalesce(count_if(${condition}), 0)`,
  average: (value, type, only) =>
    type === 'float'
      ? sql`avg(${value})${only}`
      : sql`exact_quotient(sum(${value})${only}, count(${value})${only})`,
  median(value, type, only) {
    const middle = (direction: Sql): Sql =>
      sql`percentile_disc(0.5) WITHIN GROUP (ORDER BY ${value}${direction})${only}`;
    const [low, high] = [middle(sql``), middle(sql` DESC`)];
    return type === 'float'
      ? sql`(${low} + ${high}) / 2`
      : sql`exact_quotient(${wide(low, type)} + ${wide(high, type)}, 2)`;
  },
  percentile: (value, at, only) =>
    sql`percentile_disc(${ordinal(at)} / 100) WITHIN GROUP (ORDER BY ${value})${only}`,
  extreme(value, type, which, only) {
    const one = which === 'least' ? sql`min` : sql`max`;
    if (type === 'boolean') return sql`${one}(CAST(${value} AS INTEGER))${only}`;
    if (!isText(type)) return sql`${one}(${value})${only}`;
    const by = which === 'least' ? sql`arg_min` : sql`arg_max`;
    return sql`${by}(${value}, (${sortKey(value)}, ${value}))${only}`;
  },
  ordered(value, type, descending) {
    const direction = descending ? sql` DESC NULLS LAST` : sql` ASC NULLS LAST`;
    return isText(type)
      ? sql`${sortKey(value)}${direction}, ${value}${direction}`
      : sql`${value}${direction}`;
  },
  quotient(of, to, whole) {
    if (!whole) return sql`exact_quotient(${of}, ${to})`;
    const part = whole.by === undefined ? null : exactPart(whole.by);
    return part === null
      ? sql`whole_quotient(${of}, ${to})`
      : sql`(CAST(${of} AS DECIMAL(19, 0)) * ${bind('decimal', part)})`;
  },
  kept: (name) => sql`${identifier('kept')}.${identifier(name)}`,
};

/** One divided by a whole number, where that has at most 12 decimals: to divide by 1,000 is to take 0.001 times. */
function exactPart(by: string): string | null {
  const [one, divisor] = [10n ** 12n, BigInt(by)];
  if (divisor <= 0n || one % divisor !== 0n) return null;
  const text = String(one / divisor).padStart(13, '0');
  return `${text.slice(0, -12)}.${text.slice(-12)}`;
}

/** Two whole numbers of 64 bits may add up to more than that. */
const wide = (value: Sql, type: FieldType): Sql =>
  type === 'integer' ? sql`CAST(${value} AS HUGEINT)` : value;
