import type { ReadBy } from '#core/value/format/format.ts';
import { dayOf, resolvePeriod, shiftDay } from '#core/value/period/period.ts';
import type { Period } from '#core/value/period/schema.ts';

const plural = (count: number, unit: string): string => (count === 1 ? unit : `${count} ${unit}s`);
const current = {
  hour: 'this hour',
  day: 'today',
  week: 'this week',
  month: 'this month',
  quarter: 'this quarter',
  year: 'this year',
};
const months = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** A day as a sentence says it: "23 Nov", with the year where it is not this one. */
export function dayWords(day: string, thisYear?: string): string {
  const [year = '', month = '1', date = '1'] = day.split('-');
  const words = `${Number(date)} ${months[Number(month) - 1] ?? ''}`;
  return year === thisYear ? words : `${words} ${year}`;
}

/** First and last day as "27 Oct – 23 Nov"; the end given is the day after the last. */
export function daysWords(from: string, after: string, thisYear: string): string {
  const last = shiftDay(after, 'day', -1);
  if (from === last) return dayWords(from, thisYear);
  if (from.slice(0, 7) === last.slice(0, 7)) return `${Number(from.slice(8))}–${dayWords(last, thisYear)}`;
  return `${dayWords(from, thisYear)} – ${dayWords(last, thisYear)}`;
}

/** A period in words, without its dates: "the last 28 days". */
export function periodWords(period: Period, thisYear: string): string {
  switch (period.kind) {
    case 'last':
      return `the last ${plural(period.count, period.unit)}`;
    case 'next':
      return `the next ${plural(period.count, period.unit)}`;
    case 'this':
      return current[period.unit];
    case 'ago':
      if (period.count > 1) return `the ${period.unit} ${period.count} ${period.unit}s ago`;
      return period.unit === 'day' ? 'yesterday' : `last ${period.unit}`;
    case 'olderThan':
      return `more than ${period.count} ${period.unit}${period.count === 1 ? '' : 's'} ago`;
    case 'onward':
      if (period.count === 0) return `${current[period.unit]} on`;
      if (period.unit === 'day' && period.count === 1) return 'yesterday on';
      return `the ${period.unit} ${period.count} ${period.unit}${period.count === 1 ? '' : 's'} ago on`;
    case 'past':
      return 'the past';
    case 'future':
      return 'the future';
    case 'dates':
      if (period.from && period.to) return daysWords(period.from, shiftDay(period.to, 'day', 1), thisYear);
      if (period.from) return `${dayWords(period.from, thisYear)} or later`;
      return period.to ? `${dayWords(period.to, thisYear)} or earlier` : 'any time';
  }
}

/**
 * A period in words with its dates, which a relative one always says: "the last 28 days (27 Oct – 23 Nov)". Where no moment is
 * known, as in what holds whenever it is looked at, there are no dates to say.
 */
export function periodSentence(period: Period, clock: ReadBy): string {
  if (typeof clock === 'string') return periodWords(period, '');
  const thisYear = dayOf(clock.now, clock.zone).slice(0, 4);
  const words = periodWords(period, thisYear);
  if (period.kind === 'dates') return words;
  const { fromDay, toDay } = resolvePeriod(period, clock);
  const hourly = 'unit' in period && period.unit === 'hour';
  return fromDay && toDay && !hourly ? `${words} (${daysWords(fromDay, toDay, thisYear)})` : words;
}
