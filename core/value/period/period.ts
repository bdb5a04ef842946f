import { TZDate, tzOffset } from '@date-fns/tz';
import { addDays } from 'date-fns/addDays';
import { addHours } from 'date-fns/addHours';
import { addMonths } from 'date-fns/addMonths';
import { addQuarters } from 'date-fns/addQuarters';
import { addWeeks } from 'date-fns/addWeeks';
import { addYears } from 'date-fns/addYears';
import { differenceInCalendarDays } from 'date-fns/differenceInCalendarDays';
import { putRecent } from '../recent.ts';
import type { Period } from './schema.ts';
import type { Unit } from './units.ts';

/** The moment something is asked and the zone it is shown in (an IANA name). Passed in, never read from the machine. */
export interface Clock {
  readonly now: Date;
  readonly zone: string;
}

/**
 * A half-open stretch [from, to); null is open. `fromDay` and `toDay` are the same bounds as calendar days of the zone,
 * for fields that hold dates.
 */
export interface Span {
  readonly from: Date | null;
  readonly to: Date | null;
  readonly fromDay: string | null;
  readonly toDay: string | null;
}

const hourMs = 3_600_000;

/** What a clock on the wall of a zone shows, as if it stood in UTC. */
const wall = (at: number, zone: string): number => at + Math.round(tzOffset(zone, new Date(at)) * 60_000);

/**
 * The start of an hour that is going on, by how much of it has gone by: where clocks are put back by other than whole hours, or at
 * other than a full one, the hour of the same name may have ended before.
 */
function startOfThisHour(at: Date, zone: string): Date {
  const elapsed = wall(at.getTime(), zone) % hourMs;
  return new Date(at.getTime() - (elapsed < 0 ? elapsed + hourMs : elapsed));
}

const adds: Record<Unit, (date: Date, count: number) => Date> = {
  hour: addHours,
  day: addDays,
  week: addWeeks,
  month: addMonths,
  quarter: addQuarters,
  year: addYears,
};

const two = (value: number): string => String(value).padStart(2, '0');

/** The calendar day of a moment in a zone, `YYYY-MM-DD`. */
export function dayOf(at: Date, zone: string): string {
  const local = new Date(wall(at.getTime(), zone));
  return `${String(local.getUTCFullYear()).padStart(4, '0')}-${two(local.getUTCMonth() + 1)}-${two(local.getUTCDate())}`;
}

/** The first moment of a calendar day in a zone. Days that lack a midnight begin at their first moment. */
export function startOfDayIn(day: string, zone: string): Date {
  const key = `${day} ${zone}`;
  const known = dayStarts.get(key) ?? zonedStart(day, zone);
  putRecent(dayStarts, key, known, mostDayStarts);
  return new Date(known);
}

/** What was worked out last: the same days are asked for again and again, and the rules of a zone take long to look up. */
const dayStarts = new Map<string, number>();
const mostDayStarts = 5_000;

function zonedStart(day: string, zone: string): number {
  const [year = 0, month = 1, date = 1] = day.split('-').map(Number);
  return new TZDate(year, month - 1, date, 0, 0, 0, zone).getTime();
}

const months = { month: 1, quarter: 3, year: 12 };

/** The day N units after a day; weeks, months and years are calendar ones, and a month that is shorter ends with its last day. */
export function shiftDay(day: string, unit: Exclude<Unit, 'hour'>, count: number): string {
  const [year = 0, month = 1, date = 1] = day.split('-').map(Number);
  const at = new Date(0);
  if (unit === 'day' || unit === 'week')
    at.setUTCFullYear(year, month - 1, date + count * (unit === 'week' ? 7 : 1));
  else {
    const wanted = month - 1 + count * months[unit];
    at.setUTCFullYear(year, wanted + 1, 0);
    at.setUTCDate(Math.min(date, at.getUTCDate()));
  }
  return `${String(at.getUTCFullYear()).padStart(4, '0')}-${two(at.getUTCMonth() + 1)}-${two(at.getUTCDate())}`;
}

function span(from: Date | null, to: Date | null, zone: string, days?: [string | null, string | null]): Span {
  const plain = (date: Date | null): Date | null => date && new Date(date.getTime());
  return {
    from: plain(from),
    to: plain(to),
    fromDay: days ? days[0] : from && dayOf(from, zone),
    toDay: days ? days[1] : to && dayOf(to, zone),
  };
}

/** Whole days, up to the day before the second. */
const daysSpan = (from: string | null, to: string | null, zone: string): Span =>
  span(from === null ? null : startOfDayIn(from, zone), to === null ? null : startOfDayIn(to, zone), zone, [
    from,
    to,
  ]);

/** The stretch that a period means at a moment in a zone; weeks are ISO 8601. */
export function resolvePeriod(period: Period, clock: Clock): Span {
  const { now, zone } = clock;
  const today = dayOf(now, zone);
  switch (period.kind) {
    case 'last': {
      const { unit, count } = period;
      if (unit === 'hour') {
        const from = addHours(now, -count);
        return span(from, now, zone, [dayOf(from, zone), shiftDay(today, 'day', 1)]);
      }
      const first = unitStart(today, unit);
      return daysSpan(shiftDay(first, unit, 1 - count), shiftDay(first, unit, 1), zone);
    }
    case 'next': {
      const { unit, count } = period;
      if (unit === 'hour') {
        const to = addHours(now, count);
        return span(now, to, zone, [today, shiftDay(dayOf(to, zone), 'day', 1)]);
      }
      const first = unitStart(today, unit);
      return daysSpan(first, shiftDay(first, unit, count), zone);
    }
    case 'this':
    case 'ago': {
      const { unit } = period;
      const count = period.kind === 'ago' ? period.count : 0;
      if (unit === 'hour') return hourFrom(addHours(startOfThisHour(now, zone), -count), zone);
      const first = shiftDay(unitStart(today, unit), unit, -count);
      return daysSpan(first, shiftDay(first, unit, 1), zone);
    }
    case 'olderThan':
      return span(null, adds[period.unit](new TZDate(now.getTime(), zone), -period.count), zone);
    case 'onward': {
      const { unit, count } = period;
      if (unit === 'hour') return span(addHours(startOfThisHour(now, zone), -count), null, zone);
      return daysSpan(shiftDay(unitStart(today, unit), unit, -count), null, zone);
    }
    case 'past':
      return span(null, now, zone);
    case 'future':
      return span(now, null, zone);
    case 'dates':
      return daysSpan(period.from, period.to && shiftDay(period.to, 'day', 1), zone);
  }
}

function hourFrom(from: Date, zone: string): Span {
  const day = dayOf(from, zone);
  return span(from, addHours(from, 1), zone, [day, shiftDay(day, 'day', 1)]);
}

/** The first day of the unit of time that a day is in; weeks are ISO 8601. */
export function unitStart(day: string, unit: Exclude<Unit, 'hour'>): string {
  const [year = '', month = ''] = day.split('-');
  switch (unit) {
    case 'day':
      return day;
    case 'week':
      return shiftDay(day, 'day', -((startOfDayIn(day, 'UTC').getUTCDay() + 6) % 7));
    case 'month':
      return `${year}-${month}-01`;
    case 'quarter':
      return `${year}-${two(Number(month) - ((Number(month) - 1) % 3))}-01`;
    case 'year':
      return `${year}-01-01`;
  }
}

/** The stretch of one group of a chart: from the start of a unit (a day, or an instant for hours) to the next. */
export function spanOfGroup(start: string, unit: Unit, zone: string): Span {
  if (unit === 'hour') return hourFrom(new Date(start), zone);
  return daysSpan(start, shiftDay(start, unit, 1), zone);
}

/**
 * The stretch before a period, to compare it with: the units before "the last 28 days", yesterday before today.
 * Null where "before" means nothing (open periods).
 */
export function periodBefore(period: Period, clock: Clock): Span | null {
  const { zone } = clock;
  switch (period.kind) {
    case 'last':
    case 'this':
    case 'ago': {
      const { unit } = period;
      const { from, to, fromDay, toDay } = resolvePeriod(period, clock);
      if (!from || !to || !fromDay || !toDay) return null;
      const back = period.kind === 'last' ? period.count : 1;
      if (unit === 'hour') return span(addHours(from, -back), addHours(to, -back), zone);
      return daysSpan(shiftDay(fromDay, unit, -back), shiftDay(toDay, unit, -back), zone);
    }
    case 'next': {
      const { unit, count } = period;
      if (unit === 'hour') return span(addHours(clock.now, -count), clock.now, zone);
      const first = unitStart(dayOf(clock.now, zone), unit);
      return daysSpan(shiftDay(first, unit, -count), first, zone);
    }
    case 'dates': {
      if (!period.from || !period.to) return null;
      const length = differenceInCalendarDays(new Date(period.to), new Date(period.from)) + 1;
      return resolvePeriod(
        { kind: 'dates', from: shiftDay(period.from, 'day', -length), to: shiftDay(period.from, 'day', -1) },
        clock,
      );
    }
    case 'olderThan':
    case 'onward':
    case 'past':
    case 'future':
      return null;
  }
}

/** The starts of every unit that a span touches, in order; null where the span is open or holds more than `most`. */
export function unitsIn(from: string, to: string, unit: Unit, zone: string, most: number): string[] | null {
  const found: string[] = [];
  if (unit === 'hour') {
    const end = new Date(to).getTime();
    // Full hours of the zone, whose clocks may differ from UTC by other than whole ones.
    const hourOf = (at: number): number => startOfThisHour(new Date(at), zone).getTime();
    for (let at = hourOf(new Date(from).getTime()); at < end; at = hourOf(at + hourMs)) {
      if (found.length >= most) return null;
      found.push(new Date(at).toISOString().replace('.000Z', 'Z'));
    }
    return found;
  }
  for (let at = unitStart(from, unit); at < to; at = shiftDay(at, unit, 1)) {
    if (found.length >= most) return null;
    found.push(at);
  }
  return found;
}
