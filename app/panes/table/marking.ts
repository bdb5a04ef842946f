import { flushSync } from 'react-dom';
import type { Marks } from '../marks.ts';
import type { Marking, Row } from './record-row.tsx';

/** How the records of a table are marked, whose keys and names are known. `onAct`: goes to what can be done to those that are. */
export function markingOf(
  marks: Marks,
  {
    records,
    keyOf,
    nameOf,
  }: {
    readonly records: readonly Row[];
    readonly keyOf: (row: Row) => string | null;
    readonly nameOf: (row: Row) => string;
  },
  onAct: () => void,
): Marking {
  const inView = records.flatMap((row) => keyOf(row) ?? []);
  return {
    nameOf: (row) => (keyOf(row) === null ? null : nameOf(row)),
    isMarked: (row) => marks.isMarked(keyOf(row) ?? ''),
    toggle: (row, to) => {
      const key = keyOf(row);
      if (key !== null) marks.toggle(key, inView, to);
    },
    togglePage: () => marks.togglePage(inView),
    isPageMarked: inView.length > 0 && inView.every(marks.isMarked),
    act: (row) => {
      const key = keyOf(row);
      if (marks.marked !== 'all' && marks.marked.size === 0 && key !== null)
        flushSync(() => marks.toggle(key, inView, false));
      onAct();
    },
  };
}

/** Goes to the first of the actions in a bar that can be done. */
export const goToActions = (bar: HTMLElement | null): void =>
  bar?.querySelector<HTMLElement>('button:not(:disabled)')?.focus();
