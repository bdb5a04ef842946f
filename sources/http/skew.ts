/** The source's clock by an HTTP Date header, which has whole seconds. */
export function skewOf(date: string | null, now: Date): number | null {
  const at = Date.parse(date ?? '');
  return Number.isNaN(at) ? null : Math.round(at + 500 - now.getTime());
}
