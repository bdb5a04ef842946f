import { type Filter, withinSpan } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { allOf, type GroupsPlan } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { type Clock, resolvePeriod, type Span, spanOfGroup, unitsIn } from '#core/value/period/period.ts';
import type { Unit } from '#core/value/period/units.ts';
import { withoutRecords } from '../../group-values.ts';
import type { OneContext } from '../../of-one.ts';
import type { CardPane } from './schema.ts';

/* How a card's number went over the last units of time. */

export interface Trend {
  readonly unit: Unit;
  /** In order; a unit in which nothing happened is there too. */
  readonly values: readonly Cell[];
  /** The last unit is not over. */
  readonly isOpen: boolean;
}

interface AskedTrend {
  readonly plan: GroupsPlan;
  readonly shape: (records: readonly (readonly Cell[])[]) => Trend;
}

/**
 * What a trend asks: its measure in each of the units that end with the one in which `about` ends, or which goes on now. Every other
 * condition of the card holds.
 */
export function askTrend(
  { unit, count }: NonNullable<CardPane['trend']>,
  field: Field,
  { about, others, planned }: { about: Span | null; others: readonly Filter[]; planned: PlannedMeasure },
  { from, clock }: Pick<OneContext, 'from' | 'clock'>,
): AskedTrend {
  const end = about?.to && about.to <= clock.now ? new Date(about.to.getTime() - 1) : clock.now;
  const span = wholeUnits(count, unit, { ...clock, now: end });
  return {
    plan: {
      kind: 'groups',
      from,
      zone: clock.zone,
      where: allOf([...others, { field: field.name, test: withinSpan(field, span) }]),
      by: [{ field: field.name, unit }],
      measures: [planned],
      order: [{ by: 'group:0' }],
      limit: count + 1,
    },
    shape: (records) => {
      const values = new Map(records.map(([start, value]) => [String(start), value ?? null]));
      const starts = startsIn(span, unit, clock.zone, count);
      const last = spanOfGroup(starts.at(-1) ?? '', unit, clock.zone);
      return {
        unit,
        // Of records there may be a blank number; of none there is what a measure is of none.
        values: starts.map((start) =>
          values.has(start) ? (values.get(start) ?? null) : withoutRecords(planned),
        ),
        isOpen: !!last.to && last.to > clock.now,
      };
    },
  };
}

/** The last whole units up to a moment, with the one that goes on: of hours too, which a period counts from the moment itself. */
function wholeUnits(count: number, unit: Unit, clock: Clock): Span {
  if (unit !== 'hour') return resolvePeriod({ kind: 'last', count, unit }, clock);
  const { to } = resolvePeriod({ kind: 'this', unit }, clock);
  return resolvePeriod({ kind: 'last', count, unit }, { ...clock, now: to ?? clock.now });
}

const startsIn = (span: Span, unit: Unit, zone: string, count: number): string[] =>
  (unit === 'hour'
    ? unitsIn(span.from?.toISOString() ?? '', span.to?.toISOString() ?? '', unit, zone, count + 1)
    : unitsIn(span.fromDay ?? '', span.toDay ?? '', unit, zone, count + 1)) ?? [];
