import { useEffect, useRef } from 'react';
import type { DashboardView } from '#server/panes/shown.ts';

/**
 * Hears from the server which data sets of an open page show new records. The browser connects again by itself. A page that
 * shows nothing that is kept, or made of what is, has nothing to hear of and holds no connection open.
 */
export function useChanges(
  { id, draft, hasKept }: Pick<DashboardView, 'id' | 'draft' | 'hasKept'>,
  onChange: (dataSets: readonly string[]) => void,
): void {
  const latest = useRef(onChange);
  latest.current = onChange;
  useEffect(() => {
    if (!hasKept) return;
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
  }, [id, draft, hasKept]);
}
