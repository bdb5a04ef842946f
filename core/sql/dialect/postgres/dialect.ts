import { bind, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { cycleNames, unitNames } from '#core/sql/unit.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { type Dialect, isWholeWidth } from '../dialect.ts';
import { postgresScalar } from './scalar.ts';

export const castNames: Record<FieldType, string> = {
  text: 'text',
  integer: 'bigint',
  decimal: 'numeric',
  float: 'double precision',
  boolean: 'boolean',
  date: 'date',
  instant: 'timestamptz',
  nested: 'text',
};

const escaped = (typed: string): string => typed.replace(/[\\%_]/g, '\\$&');

/**
 * The dividend's 24 zeros make the division long enough (PostgreSQL 9.3: a quotient has at least its operands' scale),
 * so that rounding to 12 decimals is rounding the exact quotient.
 */
const quotient = (of: Sql, to: Sql): Sql =>
  sql`trim_scale(round((${of})::numeric * 1.000000000000000000000000 / nullif((${to})::numeric, 0), 12))`;

/** PostgreSQL 13 and later. */
export const postgres: Dialect = {
  scalar: postgresScalar,
  placeholder: (index, { type, value }) => `$${index}::${castNames[type]}${Array.isArray(value) ? '[]' : ''}`,
  read(column, how) {
    switch (how) {
      case 'text':
        return sql`${column}::text`;
      case 'utc':
        return sql`(${column} AT TIME ZONE 'UTC')`;
      case 'number':
        return sql`${column}::numeric`;
      case 'whole':
        return sql`${column}::bigint`;
    }
  },
  periodStart(value, type, unit, zone) {
    const name = unitNames[unit];
    if (type === 'date') return sql`date_trunc(${name}, ${value}::timestamp)::date`;
    if (unit === 'hour') return sql`date_trunc(${name}, ${value}, ${bind('text', zone)})`;
    return sql`date_trunc(${name}, ${value} AT TIME ZONE ${bind('text', zone)})::date`;
  },
  cyclePart(value, type, cycle, zone) {
    const local =
      type === 'date' ? sql`${value}::timestamp` : sql`(${value} AT TIME ZONE ${bind('text', zone)})`;
    return sql`extract(${cycleNames[cycle]} FROM ${local})::bigint`;
  },
  binNumber(value, type, { width, first, last }) {
    if (type === 'float') {
      // A float is a little off where its decimal is not: 0.3 is not below 0.3.
      const place = sql`least(greatest(${value} / ${bind('float', width)}, ${ordinal(first)}), ${ordinal(last)} + 0.5::float8)`;
      return sql`(CASE WHEN ${value} <> 'NaN' THEN floor(round((${place})::numeric, 12))::bigint END)`;
    }
    if (type === 'integer' && isWholeWidth(width)) {
      const whole = bind('integer', width);
      const at = sql`(${value})::bigint / ${whole} - ((${value})::bigint % ${whole} < 0)::int`;
      return sql`(CASE WHEN ${value} IS NOT NULL THEN least(greatest(${at}, ${ordinal(first)}), ${ordinal(last)})::bigint END)`;
    }
    const [exact, wide] = [sql`(${value})::numeric`, bind('decimal', width)];
    const number = sql`div(${exact}, ${wide}) - (mod(${exact}, ${wide}) < 0)::int`;
    return sql`(CASE WHEN ${value} IS NOT NULL THEN least(greatest(${number}, ${ordinal(first)}), ${ordinal(last)})::bigint END)`;
  },
  folded: (value) => sql`lower(${value})`,
  matches(value, typed, at) {
    const pattern = `${at === 'start' ? '' : '%'}${escaped(typed)}${at === 'end' ? '' : '%'}`;
    return sql`${value}::text ILIKE ${bind('text', pattern)}`;
  },
  isOneOf: (value, type, values) => sql`${value} = ANY(${bind(type, values)})`,
  countIf: (condition) => sql`count(*) FILTER (WHERE ${condition})`,
  average: (value, type, only) =>
    type === 'float'
      ? sql`avg(${value})${only}`
      : quotient(sql`sum(${value})${only}`, sql`count(${value})${only}`),
  median(value, type, only) {
    const middle = (direction: Sql): Sql =>
      sql`percentile_disc(0.5) WITHIN GROUP (ORDER BY ${value}${direction})${only}`;
    const [low, high] = [middle(sql``), middle(sql` DESC`)];
    return type === 'float'
      ? sql`(${low} + ${high}) / 2`
      : quotient(sql`${low}::numeric + ${high}::numeric`, sql`2`);
  },
  percentile: (value, at, only) =>
    sql`percentile_disc(${bind('float', String(at / 100))}) WITHIN GROUP (ORDER BY ${value})${only}`,
  // Blanks come last in ascending order anyway; said only where it matters, so that an index is not passed over.
  ordered: (value, _, descending, filled) =>
    descending ? (filled ? sql`${value} DESC` : sql`${value} DESC NULLS LAST`) : sql`${value} ASC`,
  extreme: (value, type, which, only) => {
    const one = which === 'least' ? sql`min` : sql`max`;
    // Yes and no have no least or greatest in SQL; as 0 and 1 they do.
    return sql`${one}(${type === 'boolean' ? sql`${value}::int` : value})${only}`;
  },
  quotient,
  kept() {
    throw new TypeError('records that are kept are not in PostgreSQL');
  },
};
