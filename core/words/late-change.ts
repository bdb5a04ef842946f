import { formatMoment } from '#core/value/format/format.ts';
import { listWords } from './condition.ts';

/** Records that were changed where they come from and are shown as they were before, since kept copies of them are. */
export interface LateChange {
  /** ISO 8601. */
  readonly at: string;
  /** What the records are called, of each data set that shows them. */
  readonly many: readonly string[];
}

/** What readers are told of it: "What was changed at 16:59 is not among the scans shown yet; they are being fetched again." */
export const lateChangeSentence = (
  { at, many }: LateChange,
  clock: { readonly now: Date; readonly zone: string },
): string =>
  `What was changed at ${formatMoment(at, clock, 'time')} is not among the ${listWords([...new Set(many)])} shown yet; they are being fetched again.`;
