import { useEffect, useRef } from 'react';

/** Hears from the server which data sets of an open page have new records. The browser connects again by itself. */
export function useChanges(
  view: string,
  draft: boolean,
  onChange: (dataSets: readonly string[]) => void,
): void {
  const latest = useRef(onChange);
  latest.current = onChange;
  useEffect(() => {
    const source = new EventSource(`/view/${view}/live${draft ? '?_draft=1' : ''}`);
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
  }, [view, draft]);
}
