import type { Cycle } from '#core/value/period/units.ts';

/** What comes round again, as it stands in a sentence before "of departs". */
export const cycleWords: Record<Cycle, string> = {
  hourOfDay: 'hour of the day',
  weekday: 'weekday',
  monthOfYear: 'month of the year',
};
