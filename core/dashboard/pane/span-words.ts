import { type Clock, dayOf, type Span } from '#core/value/period/period.ts';
import { daysWords } from '#core/words/period.ts';

/** A stretch of whole days in words: "26 Nov", "3–30 Oct"; empty where it is open. */
export function spanWords({ from, to }: Span, clock: Clock): string {
  if (!from || !to) return '';
  const { zone } = clock;
  const last = dayOf(new Date(to.getTime() - 1), zone);
  const after = new Date(Date.parse(`${last}T00:00:00Z`) + 86_400_000).toISOString().slice(0, 10);
  return daysWords(dayOf(from, zone), after, dayOf(clock.now, zone).slice(0, 4));
}
