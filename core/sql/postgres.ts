import type { FieldType } from '#core/field/types.ts';
import type { Unit } from '#core/period/units.ts';
import type { Dialect } from './dialect.ts';
import { bind, type Sql, sql } from './fragment.ts';

const castNames: Record<FieldType, string> = {
  text: 'text',
  integer: 'bigint',
  decimal: 'numeric',
  float: 'double precision',
  boolean: 'boolean',
  date: 'date',
  instant: 'timestamptz',
  nested: 'text',
};

/** date_trunc's unit names; its weeks are ISO 8601 (PostgreSQL 9.9.2). */
const unitNames: Record<Unit, Sql> = {
  hour: sql`'hour'`,
  day: sql`'day'`,
  week: sql`'week'`,
  month: sql`'month'`,
  quarter: sql`'quarter'`,
  year: sql`'year'`,
};

const escaped = (typed: string): string => typed.replace(/[\\%_]/g, '\\$&');

/** PostgreSQL 12 and later. */
export const postgres: Dialect = {
  name: 'postgres',
  placeholder: (index, { type, value }) => `$${index}::${castNames[type]}${Array.isArray(value) ? '[]' : ''}`,
  read(column, how) {
    switch (how) {
      case 'text':
        return sql`${column}::text`;
      case 'utc':
        return sql`(${column} AT TIME ZONE 'UTC')`;
      case 'number':
        return sql`${column}::numeric`;
    }
  },
  periodStart(value, type, unit, zone) {
    const name = unitNames[unit];
    if (type === 'date') return sql`date_trunc(${name}, ${value}::timestamp)::date`;
    if (unit === 'hour') return sql`date_trunc(${name}, ${value}, ${bind('text', zone)})`;
    return sql`date_trunc(${name}, ${value} AT TIME ZONE ${bind('text', zone)})::date`;
  },
  folded: (value) => sql`lower(${value})`,
  matches(value, typed, at) {
    const pattern = `${at === 'start' ? '' : '%'}${escaped(typed)}${at === 'end' ? '' : '%'}`;
    return sql`${value}::text ILIKE ${bind('text', pattern)}`;
  },
  isOneOf: (value, type, values) => sql`${value} = ANY(${bind(type, values)})`,
  median(value, type, only) {
    const zero = type === 'float' ? sql`2::double precision` : sql`2::numeric`;
    const middle = (direction: Sql): Sql =>
      sql`percentile_disc(0.5) WITHIN GROUP (ORDER BY ${value}${direction})${only}`;
    return sql`(${middle(sql``)} + ${middle(sql` DESC`)}) / ${zero}`;
  },
  percentile: (value, at, only) =>
    sql`percentile_disc(${bind('float', String(at / 100))}) WITHIN GROUP (ORDER BY ${value})${only}`,
  // Blanks come last in ascending order anyway; said only where it matters, so that an index is not passed over.
  ordered: (value, descending, filled) =>
    descending ? (filled ? sql`${value} DESC` : sql`${value} DESC NULLS LAST`) : sql`${value} ASC`,
  quotient: (of, to) => sql`(${of})::numeric / nullif((${to})::numeric, 0)`,
};
