import { parseTemplate } from 'url-template';
import type { Cell } from '#core/value/field/value.ts';
import type { TracePane } from './schema.ts';

/* The events of several systems as one line of time. Pure. */

/** An event as it was asked for, before it stands among others. */
export interface LaneEvent {
  readonly lane: number;
  /** ISO 8601; null where it has no moment. */
  readonly at: string | null;
  /** By the clock of the machine that saw it. */
  readonly clock: string | null;
  /** In the order of the lane's fields. */
  readonly cells: readonly Cell[];
  /** Its fields by name, for its link. */
  readonly values: Readonly<Record<string, string>>;
}

export interface TraceEvent {
  readonly kind: 'event';
  readonly lane: number;
  readonly at: string | null;
  readonly cells: readonly Cell[];
  readonly link: string | null;
  /** Seconds by which the machine's own clock was behind; negative where it was ahead. Absent where it was right. */
  readonly clockBehind?: number;
  /** By the machine's own clock it came before what stands above it. */
  readonly isMisplaced?: true;
  /** Seconds since what stands above it; null for the first. */
  readonly gap: number | null;
  readonly isLongGap: boolean;
}

/** What should have followed and did not, or is still awaited. */
export interface MissingEvent {
  readonly kind: 'missing';
  readonly lane: number;
  readonly after: number;
  readonly minutes: number;
  /** ISO 8601: by when it was due. */
  readonly at: string;
  readonly isAwaited: boolean;
}

export type TraceLine = TraceEvent | MissingEvent;

/** Of fewer gaps than this there is no slowest tenth: those of a minute and more are long. */
const fewGaps = 10;
const longOfFew = 60;

/** A clock that is wrong by less than this, in seconds, is as good as right. */
const rightWithin = 2;

const secondsBetween = (from: string, to: string): number => (Date.parse(to) - Date.parse(from)) / 1000;

/** Events in order of time; those of one instant in the order of lanes, those without a moment last. */
const inOrder = (events: readonly LaneEvent[]): LaneEvent[] =>
  [...events].sort((a, b) => {
    if (a.at === null || b.at === null) return Number(a.at === null) - Number(b.at === null);
    return Date.parse(a.at) - Date.parse(b.at) || a.lane - b.lane;
  });

/** From which length on a gap is long: what the analyst says, or what nine of ten gaps are shorter than. Seconds. */
function longFrom(gaps: readonly number[], longGap: number | undefined): number {
  if (longGap !== undefined) return longGap;
  if (gaps.length < fewGaps) return longOfFew;
  const sorted = [...gaps].sort((a, b) => a - b);
  return Math.max(1, sorted[Math.floor(sorted.length * 0.9)] ?? longOfFew);
}

export function shapeTrace(pane: TracePane, given: readonly LaneEvent[], now: Date): TraceLine[] {
  const events = inOrder(given);
  const gaps = events.map((event, index) => {
    const before = events[index - 1]?.at;
    return before && event.at ? secondsBetween(before, event.at) : null;
  });
  const long = longFrom(
    gaps.filter((gap) => gap !== null),
    pane.longGap,
  );
  let latestClock = Number.NEGATIVE_INFINITY;
  const lines = events.map((event, index): TraceEvent => {
    const { lane, at, clock, cells } = event;
    const gap = gaps[index] ?? null;
    const behind = at && clock ? secondsBetween(clock, at) : 0;
    const machine = Date.parse(clock ?? at ?? '');
    const isMisplaced = machine < latestClock && Math.abs(behind) >= rightWithin;
    if (!Number.isNaN(machine)) latestClock = Math.max(latestClock, machine);
    return {
      kind: 'event',
      lane,
      at,
      cells,
      link: linkOf(pane, event),
      ...(Math.abs(behind) >= rightWithin ? { clockBehind: Math.round(behind) } : {}),
      ...(isMisplaced ? { isMisplaced } : {}),
      gap,
      isLongGap: gap !== null && gap >= long,
    };
  });
  return [...lines, ...missingOf(pane, events, now)].sort((a, b) => timeOf(a) - timeOf(b));
}

const timeOf = ({ at }: TraceLine): number => (at === null ? Number.POSITIVE_INFINITY : Date.parse(at));

/** What was expected after the first event of another lane and has not come by then. */
function missingOf({ expects }: TracePane, events: readonly LaneEvent[], now: Date): MissingEvent[] {
  return expects.flatMap(({ lane, after, minutes }): MissingEvent[] => {
    const first = events.find((event) => event.lane === after && event.at !== null)?.at;
    if (!first) return [];
    const due = Date.parse(first) + minutes * 60_000;
    const hasCome = events.some((event) => {
      const at = event.lane === lane && event.at !== null ? Date.parse(event.at) : Number.NaN;
      return at >= Date.parse(first) && at <= due;
    });
    return hasCome
      ? []
      : [
          {
            kind: 'missing',
            lane,
            after,
            minutes,
            at: new Date(due).toISOString(),
            isAwaited: due > now.getTime(),
          },
        ];
  });
}

/** Where a deep tool shows an event; null where the lane names none, or what comes of it is no web address. */
function linkOf({ lanes, span }: TracePane, { lane, at, values }: LaneEvent): string | null {
  const template = lanes[lane]?.link;
  if (!template) return null;
  const moment = at === null ? Number.NaN : Date.parse(at);
  const near = (by: number): string => new Date(moment + by * span * 60_000).toISOString();
  const times: Record<string, string> = Number.isNaN(moment)
    ? {}
    : { from: near(-1), at: near(0), to: near(1) };
  try {
    const address = new URL(parseTemplate(template).expand({ ...values, ...times }));
    return address.protocol === 'https:' || address.protocol === 'http:' ? address.href : null;
  } catch {
    return null;
  }
}
