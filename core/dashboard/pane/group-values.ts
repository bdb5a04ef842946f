import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Field } from '#core/value/field/field.ts';
import { placeInStates } from '#core/value/field/states.ts';
import type { Cell } from '#core/value/field/value.ts';
import { type Clock, resolvePeriod, type Span, spanOfGroup, unitsIn } from '#core/value/period/period.ts';
import type { Unit } from '#core/value/period/units.ts';
import type { Applied } from './kind.ts';

/* The values that numbers are grouped by, as panes lay them out. */

const additive = new Set(['count', 'sum', 'distinct']);

/** What a measure is of no records: nothing counted or added up, and no value of anything else. */
export const withoutRecords = (measure: PlannedMeasure | undefined): Cell =>
  additive.has(measure?.calculation.kind ?? '') ? '0' : null;

/** Whether a unit of time is covered only in part: it is not over, or the period that is shown begins or ends within it. */
export function partOf(
  value: Cell,
  unit: Unit,
  { span, now, zone }: { span: Span | null; now: Date | null; zone: string },
): 'so far' | 'in part' | null {
  if (typeof value !== 'string') return null;
  const { from, to } = spanOfGroup(value, unit, zone);
  if (now && from && to && from <= now && now < to) return 'so far';
  const isCut = (span?.from && from && from < span.from) || (span?.to && to && to > span.to);
  return isCut ? 'in part' : null;
}

/** Whether a unit of time has begun by a moment. */
export function hasBegun(value: Cell, unit: Unit, { now, zone }: { now: Date; zone: string }): boolean {
  const from = typeof value === 'string' ? spanOfGroup(value, unit, zone).from : null;
  return !from || from <= now;
}

/** A field's values keep the order that the analyst gave its states; what has none stands after them. */
export function compareValues(a: Cell | undefined, b: Cell | undefined, states: Field['states']): number {
  return placeInStates(a, states) - placeInStates(b, states) || compareCells(a ?? null, b ?? null);
}

const compareCells = (a: Cell, b: Cell): number => {
  if (a === b) return 0;
  if (a === null) return 1;
  if (b === null) return -1;
  return String(a).localeCompare(String(b), 'en', { numeric: true });
};

/** The period of a field that a reader or the pane has chosen: the latest of them. */
export const periodOf = (applied: readonly Applied[], field: string): Applied | undefined =>
  applied.findLast((each) => each.period?.field === field);

/** The stretch of time that what is divided by units of a field is shown for; null where it is by no unit, or of no period. */
export function spanOf(
  applied: readonly Applied[],
  { field, unit }: { readonly field: string; readonly unit?: Unit | undefined },
  clock: Clock,
): Span | null {
  const period = periodOf(applied, field)?.period?.period;
  return unit && period ? resolvePeriod(period, clock) : null;
}

/**
 * The starts of the units of time from the first to the last that are shown, those without records too: within the bounds of the
 * period that is shown where it has both. None where there would be more than `most`.
 */
export function unitsShown(
  values: readonly (Cell | undefined)[],
  unit: Unit,
  { span, zone, most }: { span: Span | null; zone: string; most: number },
): string[] {
  const starts = values.flatMap((value) => (typeof value === 'string' ? [value] : [])).sort();
  const [first, last] = [starts[0], starts.at(-1)];
  const end = last === undefined ? null : spanOfGroup(last, unit, zone);
  const [from, to] =
    unit === 'hour'
      ? [span?.from?.toISOString() ?? first, (span?.to ?? end?.to)?.toISOString()]
      : [span?.fromDay ?? first, span?.toDay ?? end?.toDay];
  if (!from || !to) return [];
  return unitsIn(from, to, unit, zone, most) ?? [];
}
