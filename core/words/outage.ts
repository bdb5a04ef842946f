import { formatMoment } from '#core/value/format/format.ts';
import { dayOf } from '#core/value/period/period.ts';

/** A source that does not answer, and which of the records shown come from it. */
export interface Outage {
  readonly source: string;
  /** ISO 8601: when it was first found not to answer. */
  readonly since: string;
  /** Data sets by id, with what their records are called. */
  readonly dataSets: readonly { readonly id: string; readonly many: string }[];
}

interface Clock {
  readonly now: Date;
  readonly zone: string;
}

/** A moment of today by its time alone. */
function moment(at: string, { now, zone }: Clock): string {
  const isToday = dayOf(new Date(at), zone) === dayOf(now, zone);
  return formatMoment(at, { now, zone }, isToday ? 'time' : 'short');
}

/**
 * What readers are told of an outage. `trueAt` is the oldest moment at which what they see of it was true (ISO 8601); null
 * where they see nothing of it: "Fuel cards has not answered since 15:53; the fills shown are as of 15:20".
 */
export function outageSentence(
  { source, since, dataSets }: Outage,
  trueAt: string | null,
  clock: Clock,
): string {
  const silent = `${source} has not answered since ${moment(since, clock)}`;
  const [last = '', ...others] = [...new Set(dataSets.map(({ many }) => many))].reverse();
  if (trueAt === null || last === '') return `${silent}.`;
  const nouns = others.length > 0 ? `${others.reverse().join(', ')} and ${last}` : last;
  return `${silent}; the ${nouns} shown are as of ${moment(trueAt, clock)}.`;
}
