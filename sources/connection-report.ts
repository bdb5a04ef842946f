/** What proving a source found, as a person reads it. */
export interface ConnectionReport {
  readonly facts: readonly { readonly name: string; readonly value: string }[];
  /** What should be changed though it works. */
  readonly warnings: readonly string[];
  /** How far the source's clock is ahead of ours; negative is behind. Milliseconds; null where it told no time. */
  readonly clockSkewMs: number | null;
  readonly tookMs: number;
  /** ISO 8601. */
  readonly at: string;
}

/** The source's clock by an HTTP Date header, which has whole seconds. */
export function skewOf(date: string | null, now: Date): number | null {
  const at = Date.parse(date ?? '');
  return Number.isNaN(at) ? null : Math.round(at + 500 - now.getTime());
}
