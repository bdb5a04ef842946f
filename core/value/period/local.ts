import { TZDate } from '@date-fns/tz';

/* Moments as clocks on the wall show them, for those who type one. */

const local = /^(\d{4})-(\d{2})-(\d{2})[T ](\d{2}):(\d{2})(?::(\d{2}))?$/;

/**
 * The instant that a clock of a zone shows as `YYYY-MM-DD HH:MM`, as ISO 8601 in UTC; null where that is no such text. An hour that
 * comes twice, when clocks are put back, is the first; one that is left out is what it would have been.
 */
export function instantOfLocal(text: string, zone: string): string | null {
  const [, year, month, day, hour, minute, second = '0'] = local.exec(text) ?? [];
  if (year === undefined) return null;
  const at = new TZDate(
    Number(year),
    Number(month) - 1,
    Number(day),
    Number(hour),
    Number(minute),
    Number(second),
    zone,
  );
  return Number.isNaN(at.getTime()) ? null : new Date(at.getTime()).toISOString();
}

const two = (value: number): string => String(value).padStart(2, '0');

/** An instant as a clock of a zone shows it, `YYYY-MM-DDTHH:MM`, which is what a browser's control takes (HTML, 2.3.5). */
export function localOfInstant(instant: string, zone: string): string {
  const at = new TZDate(new Date(instant).getTime(), zone);
  if (Number.isNaN(at.getTime())) return '';
  const day = `${String(at.getFullYear()).padStart(4, '0')}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
  return `${day}T${two(at.getHours())}:${two(at.getMinutes())}`;
}
