import { useEffect, useRef } from 'react';
import type { DashboardView } from '#server/panes/shown.ts';

/**
 * Hears from the server which data sets of an open page have new records. The browser connects again by itself. A page
 * that shows live records only has nothing to hear of, and holds no connection open.
 */
export function useChanges(
  { id, draft, dataSets }: Pick<DashboardView, 'id' | 'draft' | 'dataSets'>,
  onChange: (dataSets: readonly string[]) => void,
): void {
  const isKept = Object.values(dataSets).some(({ keep }) => keep !== undefined);
  const latest = useRef(onChange);
  latest.current = onChange;
  useEffect(() => {
    if (!isKept) return;
    const source = new EventSource(`/view/${id}/live${draft ? '?_draft=1' : ''}`);
    let wasLost = false;
    source.addEventListener('changed', (event: MessageEvent<string>) =>
      latest.current(JSON.parse(event.data) as string[]),
    );
    source.addEventListener('error', () => {
      wasLost = true;
    });
    source.addEventListener('open', () => {
      // What changed while nobody listened is asked for once the line is back.
      if (wasLost) latest.current([]);
      wasLost = false;
    });
    return () => source.close();
  }, [id, draft, isKept]);
}
