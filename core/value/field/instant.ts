/*
 * Instants as texts: ISO 8601 in UTC. A year of more than four digits, or before the year 1, is written with its sign and six
 * digits, which is what ECMAScript reads (ECMA-262, "Expanded Years").
 */

/** A year as ISO 8601 writes it; the year before 1 is 0. */
export const isoYear = (year: number): string =>
  year >= 0 && year <= 9999
    ? String(year).padStart(4, '0')
    : `${year < 0 ? '-' : '+'}${String(Math.abs(year)).padStart(6, '0')}`;

/** 400 years of the Gregorian calendar, in microseconds: after so long it is the same again. */
const cycle = 146_097n * 86_400_000_000n;
/** What a `Date` can hold on each side of 1970, in microseconds, kept to whole cycles. */
const reach = 600n * cycle;

/** What stands for "after every instant" in 64 bits, as PostgreSQL and DuckDB have it; the same below nought is before every one. */
const endless = 2n ** 63n - 1n;

/** A UTC timestamp in microseconds since 1970, with as many digits of the second as it needs. */
export function instantText(micros: bigint): string {
  if (micros >= endless) return 'infinity';
  if (micros <= -endless) return '-infinity';
  // Databases know instants that a `Date` does not: these are looked at a number of whole cycles nearer.
  const away =
    micros > reach ? (micros - reach) / cycle + 1n : micros < -reach ? (micros + reach) / cycle - 1n : 0n;
  const near = micros - away * cycle;
  const seconds = near >= 0n ? near / 1_000_000n : -((-near + 999_999n) / 1_000_000n);
  const rest = near - seconds * 1_000_000n;
  const at = new Date(Number(seconds) * 1000);
  const part = rest === 0n ? '' : `.${String(rest).padStart(6, '0').replace(/0+$/, '')}`;
  const within = at.toISOString().slice(-20, -5);
  return `${isoYear(at.getUTCFullYear() + Number(away) * 400)}${within}${part}Z`;
}
