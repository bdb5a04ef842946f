import type { Unit } from '#core/value/period/units.ts';
import { type Sql, sql } from './fragment.ts';

/** date_trunc's names of units, which both engines share; weeks are ISO 8601. */
export const unitNames: Record<Unit, Sql> = {
  hour: sql`'hour'`,
  day: sql`'day'`,
  week: sql`'week'`,
  month: sql`'month'`,
  quarter: sql`'quarter'`,
  year: sql`'year'`,
};
