import type { Format } from '#core/value/field/format.ts';
import type { FieldType } from '#core/value/field/types.ts';

/*
 * Ways in which people write numbers and dates that no type reads by itself: 1.234,50, £12, 31.12.2025. A column is read by one only
 * where every text of it agrees, and that is a guess which is shown and can be undone.
 */

/** In the order in which they are tried: where two agree, the first is taken. */
export const forms = [
  'thousands',
  'decimal comma',
  'money',
  'money with a decimal comma',
  'percent',
  'day first',
  'month first',
  'year first',
  'month named',
  'day first, with a time',
  'month first, with a time',
  'year first, with a time',
  'month named, with a time',
  'moment in UTC',
] as const;
export type Form = (typeof forms)[number];

export const numberForms: readonly Form[] = [
  'thousands',
  'decimal comma',
  'money',
  'money with a decimal comma',
  'percent',
];

/** What such texts become. A time says no zone, so that with one they stay text, written as moments are. */
export function formType(form: Form): FieldType {
  if (numberForms.includes(form)) return 'decimal';
  if (form === 'moment in UTC') return 'instant';
  return form.endsWith('a time') ? 'text' : 'date';
}

/** What a reader is told: how the texts are read. */
export const formWords: Record<Form, string> = {
  thousands: 'numbers with commas between thousands',
  'decimal comma': 'numbers with a decimal comma',
  money: 'amounts of money',
  'money with a decimal comma': 'amounts of money with a decimal comma',
  percent: 'percentages',
  'day first': 'dates, the day first',
  'month first': 'dates, the month first',
  'year first': 'dates, the year first',
  'month named': 'dates with the month’s name',
  'day first, with a time': 'moments without a zone, the day first',
  'month first, with a time': 'moments without a zone, the month first',
  'year first, with a time': 'moments without a zone, the year first',
  'month named, with a time': 'moments without a zone, with the month’s name',
  'moment in UTC': 'moments in UTC',
};

/** How readers are shown what was written in a form. */
export const formFormat = (form: Form): Format | undefined =>
  form === 'percent' ? { kind: 'percent' } : undefined;
