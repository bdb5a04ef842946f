import { functionalUpdate, type Updater } from '@tanstack/react-table';
import { useCallback, useEffect, useRef, useState } from 'react';
import { type Widths, widthsOf, widthTexts } from '#core/dashboard/pane/kinds/table/widths.ts';
import type { PaneView } from '#core/dashboard/pane/view.ts';

/** A width stands in the address once nobody has moved it for so long. */
const settleMs = 300;

/** How wide the reader has made the columns of a table: at once on the page, and in the address when they have let go. */
export function useWidths(
  view: PaneView,
  onLook: (parts: PaneView) => void,
): readonly [Widths, (change: Updater<Widths>) => void] {
  const inAddress = (view.widths ?? []).join('\n');
  const [widths, setWidths] = useState<Widths>(() => widthsOf(view.widths));
  const latest = useRef(widths);
  const settling = useRef<ReturnType<typeof setTimeout>>(undefined);
  const look = useRef(onLook);
  look.current = onLook;
  // Whoever goes back, or follows a link, has the widths of that address, unless they are moving one just now.
  useEffect(() => {
    if (settling.current !== undefined) return;
    latest.current = widthsOf(inAddress === '' ? [] : inAddress.split('\n'));
    setWidths(latest.current);
  }, [inAddress]);
  useEffect(() => () => clearTimeout(settling.current), []);
  const change = useCallback((next: Updater<Widths>): void => {
    latest.current = functionalUpdate(next, latest.current);
    setWidths(latest.current);
    clearTimeout(settling.current);
    settling.current = setTimeout(() => {
      settling.current = undefined;
      look.current({ widths: widthTexts(latest.current) });
    }, settleMs);
  }, []);
  return [widths, change];
}
