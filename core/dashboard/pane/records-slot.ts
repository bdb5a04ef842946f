import type { PaneRecords } from './shared.ts';
import type { PaneUse } from './use.ts';

/* The slots of a brief that say which records a pane uses, of each of what it uses. */

const parts = ['subset', 'keeping', 'when'] as const;
export type RecordsPart = (typeof parts)[number];

/** The name of such a slot: of the first of what a pane uses it is the part alone. */
export const recordsSlot = (part: RecordsPart, use: number): string => (use === 0 ? part : `${part}:${use}`);

/** What such a slot is of; null for a slot of a kind's own. */
export function recordsSlotOf(slot: string): { readonly part: RecordsPart; readonly use: number } | null {
  const [name, use = '0'] = slot.split(':');
  const part = parts.find((each) => each === name);
  return part ? { part, use: Number(use) } : null;
}

/** Which records a use is of, as a brief says it. */
export const recordsOf = ({ dataSet, subset, keeping, when, waitsFor }: PaneUse): PaneRecords => ({
  dataSet,
  subset,
  keeping,
  when,
  waitsFor,
});
