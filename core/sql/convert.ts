import type { Dialect } from '#core/sql/dialect/dialect.ts';
import { written } from '#core/sql/dialect/scalar.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { type Sql, sql } from './fragment.ts';

interface Converting {
  readonly dialect: Dialect;
  readonly zone: string;
  /** Refuses numbers that would be rounded; an expression rounds them as SQL does. */
  readonly exactly?: boolean;
  /** What stands for a value that cannot be read; blank unless said. */
  readonly misfit?: (text: Sql) => Sql;
}

const yesNo = 'true|false|yes|no|1|0';

/** A value of one type as another. What cannot be read so is blank, or what `misfit` makes of its text. */
export function convertSql(value: Sql, from: FieldType, to: FieldType, options: Converting): Sql {
  const { dialect, zone, exactly = false, misfit } = options;
  const { scalar } = dialect;
  if (from === to) return value;
  if (to === 'text') return from === 'nested' ? value : scalar.text(value, from);
  const orElse = (found: Sql): Sql =>
    misfit
      ? sql`(CASE WHEN ${value} IS NULL THEN NULL WHEN ${found} IS NOT NULL THEN ${found} ELSE ${misfit(scalar.text(value, from))} END)`
      : found;
  if (from === 'text') {
    if (to === 'nested') return orElse(scalar.read(value, 'nested'));
    const trimmed = sql`trim(${value})`;
    const pattern = to === 'boolean' ? yesNo : written[to];
    const tested = to === 'boolean' ? sql`lower(${trimmed})` : trimmed;
    return orElse(sql`(CASE WHEN ${scalar.like(tested, pattern)} THEN ${scalar.read(trimmed, to)} END)`);
  }
  switch (to) {
    case 'decimal':
      return scalar.exact(value, from);
    case 'integer': {
      const number = scalar.exact(value, from);
      const whole = scalar.fitted(scalar.rounded(number, 0));
      return exactly
        ? orElse(sql`(CASE WHEN ${number} = ${scalar.rounded(number, 0)} THEN ${whole} END)`)
        : whole;
    }
    case 'float':
      return scalar.float(value);
    case 'date':
      return dialect.periodStart(value, 'instant', 'day', zone);
    case 'instant':
      return scalar.fromClock(scalar.midnight(value), zone);
    default:
      throw new RangeError(`${from} cannot be read as ${to}`);
  }
}
