import {
  type Clock,
  dayOf,
  periodBefore,
  resolvePeriod,
  type Span,
  shiftDay,
  startOfDayIn,
} from '#core/value/period/period.ts';
import type { Period } from '#core/value/period/schema.ts';
import type { Applied } from '../../kind.ts';
import type { CardPane } from './schema.ts';

/* The stretches of time that a card's number is about, and is compared with. */

/** The two stretches that a card compares; `isPartial`: both end at the moment up to which it has got. */
export interface CardSpans {
  readonly now: Span;
  readonly before: Span;
  readonly isPartial: boolean;
}

/** The period that a card's number is about: its own, else the scope's. */
export const periodOfCard = (applied: readonly Applied[]): Applied | undefined =>
  applied.find(({ from }) => from === 'period') ??
  applied.findLast(({ from, period }) => from === 'clause' && period !== undefined);

/** Null where there is nothing to compare with. */
export function cardSpans(pane: CardPane, period: Period, clock: Clock): CardSpans | null {
  const now = resolvePeriod(period, clock);
  const before = pane.against === 'none' ? null : periodBefore(period, clock);
  if (!before) return null;
  if (pane.against !== 'sameTime' || !before.from || !now.from || !now.to || now.to <= clock.now)
    return { now, before, isPartial: false };
  return {
    now: { ...now, to: clock.now },
    before: { ...before, to: sameTimeBefore(now.from, before, clock) },
    isPartial: true,
  };
}

/** As far as it had got: as many days into the period before, at the same time by the clock on the wall. */
function sameTimeBefore(from: Date, before: Span, { now, zone }: Clock): Date {
  const begun = before.from ?? now;
  const days = daysBetween(dayOf(from, zone), dayOf(now, zone));
  const passed =
    days === 0
      ? now.getTime() - from.getTime()
      : now.getTime() - startOfDayIn(dayOf(now, zone), zone).getTime();
  const day = days === 0 ? begun : startOfDayIn(shiftDay(dayOf(begun, zone), 'day', days), zone);
  const at = new Date(day.getTime() + passed);
  return before.to && at > before.to ? before.to : at;
}

const daysBetween = (from: string, to: string): number =>
  Math.round((Date.parse(`${to}T00:00:00Z`) - Date.parse(`${from}T00:00:00Z`)) / 86_400_000);
