/** Calendar units; weeks are ISO 8601. */
export const units = ['hour', 'day', 'week', 'month', 'quarter', 'year'] as const;
export type Unit = (typeof units)[number];
/** Those that begin with a day. */
export const dayUnits = ['day', 'week', 'month', 'quarter', 'year'] as const satisfies readonly Unit[];
export type DayUnit = (typeof dayUnits)[number];

/** What comes round again: the hour of the day from 0, the day of the week from Monday as 1 (ISO 8601), the month of the year from 1. */
export const cycles = ['hourOfDay', 'weekday', 'monthOfYear'] as const;
export type Cycle = (typeof cycles)[number];

/** The numbers of what comes round again, in order. */
export const cycleNumbers: Record<Cycle, readonly number[]> = {
  hourOfDay: Array.from({ length: 24 }, (_, at) => at),
  weekday: Array.from({ length: 7 }, (_, at) => at + 1),
  monthOfYear: Array.from({ length: 12 }, (_, at) => at + 1),
};
