import type { DataSet } from '#core/dataset/schema.ts';
import type { Cycle, Unit } from '#core/value/period/units.ts';
import { cycleWords } from '#core/words/cycle.ts';
import { directionWords } from '#core/words/order.ts';

/** What records are grouped by, as a brief has it. */
interface GroupedBy {
  readonly field: string;
  readonly unit?: Unit | undefined;
  readonly cycle?: Cycle | undefined;
  readonly bins?: object | undefined;
}

/** What records are grouped by, in words: "week of departs", "weekday of departs", "cause". */
export const groupedByWords = ({ unit, cycle, bins }: GroupedBy, label: string): string =>
  bins
    ? `ranges of ${label}`
    : cycle
      ? `${cycleWords[cycle]} of ${label}`
      : unit
        ? `${unit} of ${label}`
        : label;

/** Which way groups stand when they are in their own order, in words. */
export const groupOrderWords = (group: GroupedBy | undefined, { fields }: DataSet): string =>
  group?.cycle
    ? 'in their order'
    : directionWords(
        fields.find(({ name }) => name === group?.field),
        false,
      );
