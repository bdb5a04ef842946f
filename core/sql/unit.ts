import type { Cycle, Unit } from '#core/value/period/units.ts';
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

/** EXTRACT's names of what comes round again, which both engines share; weekdays are ISO 8601. */
export const cycleNames: Record<Cycle, Sql> = {
  hourOfDay: sql`hour`,
  weekday: sql`isodow`,
  monthOfYear: sql`month`,
};
