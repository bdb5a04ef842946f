import { TZDate } from '@date-fns/tz';
import { shiftDay } from '#core/value/period/period.ts';
import { causes, routes, seed, vessels, zone } from './line.ts';
import { type Random, seeded } from './random.ts';

export interface Sailing {
  id: number;
  reference: string;
  routeId: number;
  vesselId: number;
  masterId: number;
  departsAt: string;
  arrivesAt: string;
  leftAt: string | null;
  landedAt: string | null;
  status: 'planned' | 'boarding' | 'under way' | 'arrived' | 'late' | 'cancelled';
  delayMinutes: number | null;
  cause: string | null;
  passengers: number | null;
  vehicles: number | null;
  fares: string | null;
}

const epoch = '2020-01-01';
const minute = 60_000;
/** A sailing that leaves more than this late is late. */
export const lateMinutes = 10;

const dayNumber = (day: string): number => Math.round((Date.parse(day) - Date.parse(epoch)) / 86_400_000);

/** Storms come in spells of a few days, more of them in winter. */
function roughness(day: string): number {
  const random = seeded(seed + Math.floor(dayNumber(day) / 3) * 31);
  const month = Number(day.slice(5, 7));
  const winter = month >= 11 || month <= 2 ? 1 : month === 3 || month === 10 ? 0.6 : 0.25;
  return random.chance(0.22 * winter + 0.04) ? random.between(20, 45) / 10 : 1;
}

/** All sailings of a day as they stand at a moment. The same day and moment always give the same sailings. */
export function sailingsOf(day: string, now: Date): Sailing[] {
  const random = seeded(seed + dayNumber(day) * 101);
  const rough = roughness(day);
  const weekend = new Date(`${day}T12:00:00Z`).getUTCDay() % 6 === 0;
  const sailings: Sailing[] = [];
  const [year = 0, month = 1, date = 1] = day.split('-').map(Number);
  // Clocks are changed at night, so that the hours since are as long as any.
  const first = new TZDate(year, month - 1, date, 6, 10, 0, zone).getTime();
  for (const route of routes) {
    const count = route.departures - (weekend ? 2 : 0);
    const gap = Math.floor((16 * 60) / count);
    for (let n = 0; n < count; n += 1) {
      const later = n * gap - ((n * gap) % 5);
      const departs = first + later * minute;
      const hour = 6 + Math.floor((10 + n * gap) / 60);
      const id = dayNumber(day) * 100 + sailings.length + 1;
      sailings.push(
        sail(
          random,
          { id, route, departs, rough: rough * route.rough, busy: hour < 10 || (hour > 15 && hour < 19) },
          now,
        ),
      );
    }
  }
  return sailings;
}

interface Planned {
  id: number;
  route: (typeof routes)[number];
  departs: number;
  rough: number;
  busy: boolean;
}

/** Every draw is made whatever the moment, so that the day unfolds the same however often it is asked. */
function sail(random: Random, { id, route, departs, rough, busy }: Planned, now: Date): Sailing {
  const vesselId = random.pick([route.vessels[0], ...route.vessels]);
  const vessel = vessels.find((each) => each.id === vesselId);
  const cancelled = random.chance(0.006 * rough * rough);
  const late = random.chance(Math.min(0.85, 0.085 * rough));
  const delay = late
    ? random.between(lateMinutes + 1, 28 + Math.round(12 * rough))
    : Math.max(0, random.between(-4, lateMinutes - 2));
  const cause = random.chance(0.12)
    ? null
    : rough > 2 && random.chance(0.7)
      ? 'weather'
      : random.pick(causes as unknown as [string, ...string[]]);
  const share = random.between(busy ? 45 : 15, busy ? 98 : 70) / 100;
  const passengers = Math.round((vessel?.passengers ?? 100) * share);
  const aboard = Math.round((vessel?.vehicles ?? 10) * Math.min(1, share * (random.between(70, 110) / 100)));
  const pence = passengers * random.between(610, 940) + aboard * random.between(1850, 2600);
  const masterId = 1 + 5 * random.between(0, 11);
  const left = departs + delay * minute;
  const landed = left + (route.minutes + random.between(-2, 4)) * minute;
  const at = now.getTime();
  const hasLeft = !cancelled && left <= at;
  const status =
    cancelled && departs - 90 * minute <= at
      ? 'cancelled'
      : hasLeft
        ? landed <= at
          ? 'arrived'
          : 'under way'
        : departs + lateMinutes * minute < at
          ? 'late'
          : departs - 25 * minute <= at
            ? 'boarding'
            : 'planned';
  const iso = (time: number): string => new Date(time).toISOString();
  const known = hasLeft || status === 'late';
  return {
    id,
    reference: `SK-${id}`,
    routeId: route.id,
    vesselId,
    masterId,
    departsAt: iso(departs),
    arrivesAt: iso(departs + route.minutes * minute),
    leftAt: hasLeft ? iso(left) : null,
    landedAt: hasLeft && landed <= at ? iso(landed) : null,
    status,
    delayMinutes: hasLeft ? delay : status === 'late' ? Math.floor((at - departs) / minute) : null,
    cause: (known && late) || status === 'cancelled' ? cause : null,
    passengers: hasLeft ? passengers : null,
    vehicles: hasLeft ? aboard : null,
    fares: hasLeft ? (pence / 100).toFixed(2) : null,
  };
}

export interface Incident {
  id: number;
  sailingId: number;
  kind: string;
  severity: 'minor' | 'serious' | 'grave';
  reportedAt: string;
  reportedBy: number;
  note: string;
  settledAt: string | null;
}

const kinds: Record<string, readonly [string, ...string[]]> = {
  weather: ['Swell at the linkspan', 'Wind above the berthing limit', 'Visibility below half a mile'],
  tide: ['Too little water over the sill', 'Ramp angle past its limit'],
  technical: ['Bow thruster alarm', 'Ramp hydraulics slow', 'Generator changed over'],
  crew: ['Relief came late', 'Mate taken ill'],
  loading: ['Load planned wrongly', 'Vehicle would not start', 'Refrigerated lorry without power'],
  'traffic at berth': ['Berth still taken', 'Held off for a freighter'],
  none: ['Nobody wrote down why', 'Passenger needed help', 'Lost child found'],
};

/** One in so many incidents lies about for this long before somebody settles it. */
const lingersOneIn = 19;
const lingersDays = 50;

/** What was reported about a sailing: most late ones have a report, a few of the others too. */
export function incidentsOf(sailing: Sailing, now: Date): Incident[] {
  const random = seeded(seed + sailing.id * 7);
  const troubled = (sailing.delayMinutes ?? 0) > lateMinutes || sailing.status === 'cancelled';
  const count = troubled ? random.between(0, 2) : random.chance(0.01) ? 1 : 0;
  return Array.from({ length: count }, (_, index) => {
    const reported = Date.parse(sailing.departsAt) + random.between(-20, 15) * minute;
    const settled = reported + random.between(20, 60 * 40) * minute;
    const id = sailing.id * 10 + index;
    const lingers = id % lingersOneIn === 0 && now.getTime() - reported < lingersDays * 1440 * minute;
    return {
      id,
      sailingId: sailing.id,
      kind: random.pick(kinds[sailing.cause ?? 'none'] ?? ['Passenger needed help']),
      severity: random.chance(0.7) ? 'minor' : random.chance(0.8) ? 'serious' : 'grave',
      reportedAt: new Date(reported).toISOString(),
      reportedBy: random.between(1, 60),
      note: random.pick([
        'Master informed.',
        'Passengers told by loudspeaker.',
        'Terminal staff informed; stewards handed out tea.',
        'Seen by the duty manager.',
      ]),
      settledAt: settled < now.getTime() && !lingers ? new Date(settled).toISOString() : null,
    } satisfies Incident;
  }).filter(({ reportedAt }) => Date.parse(reportedAt) <= now.getTime());
}

/** The days from one to another, both included. */
export function daysBetween(from: string, to: string): string[] {
  const days: string[] = [];
  for (let day = from; day <= to; day = shiftDay(day, 'day', 1)) days.push(day);
  return days;
}
