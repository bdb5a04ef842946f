import { useMemo, useState } from 'react';

/** Which records of a list are marked, by their keys: over its pages, and all of them at once. */
export interface Marks {
  readonly marked: ReadonlySet<string> | 'all';
  isMarked(key: string): boolean;
  /** `to`: all from the one that was marked last up to this one, of those in view. */
  toggle(key: string, inView: readonly string[], to: boolean): void;
  /** Marks those in view, or unmarks them where all are. */
  togglePage(inView: readonly string[]): void;
  markAll(): void;
  unmark(): void;
}

const none: ReadonlySet<string> = new Set();

export function useMarks(): Marks {
  const [marked, setMarked] = useState<ReadonlySet<string> | 'all'>(none);
  const [last, setLast] = useState<string | null>(null);
  return useMemo(() => {
    const isMarked = (key: string): boolean => marked === 'all' || marked.has(key);
    const change = (keys: readonly string[], on: boolean, inView: readonly string[]): void => {
      // Of all, those that are not in view cannot be told one by one.
      const next = new Set(marked === 'all' ? inView : marked);
      for (const key of keys) {
        if (on) next.add(key);
        else next.delete(key);
      }
      setMarked(next);
    };
    return {
      marked,
      isMarked,
      toggle: (key, inView, to) => {
        const [from, until] = [last === null ? -1 : inView.indexOf(last), inView.indexOf(key)];
        const span = to && from >= 0 ? inView.slice(Math.min(from, until), Math.max(from, until) + 1) : [key];
        change(span, !isMarked(key), inView);
        setLast(key);
      },
      togglePage: (inView) => change(inView, !inView.every(isMarked), inView),
      markAll: () => setMarked('all'),
      unmark: () => setMarked(none),
    };
  }, [marked, last]);
}
