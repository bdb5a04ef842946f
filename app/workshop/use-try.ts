import { useCallback, useEffect, useRef, useState } from 'react';
import type { TryAnswer } from '../routes/try.ts';

const lost: TryAnswer = {
  ok: false,
  problem: {
    code: 'unreachable',
    doing: 'trying the request',
    why: 'the connection was lost, or you have been signed out',
    mend: 'Try it again.',
  },
};

/**
 * Asks for the records of a request that is not saved. A question changes nothing, so it is no submission of the router:
 * it has no page reloaded, and a link that is clicked meanwhile is followed. Only the latest answer counts.
 */
export function useTry(): { answer: TryAnswer | undefined; busy: boolean; ask: (about: object) => void } {
  const [answer, setAnswer] = useState<TryAnswer>();
  const [busy, setBusy] = useState(false);
  const asking = useRef<AbortController | null>(null);
  useEffect(() => () => asking.current?.abort(), []);
  const ask = useCallback((about: object): void => {
    asking.current?.abort();
    const mine = new AbortController();
    asking.current = mine;
    setBusy(true);
    void fetch('/workshop/try', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(about),
      signal: mine.signal,
    })
      .then((response) => response.json() as Promise<TryAnswer>)
      .catch(() => lost)
      .then((answered) => {
        if (mine.signal.aborted) return;
        setAnswer('ok' in answered ? answered : lost);
        setBusy(false);
      });
  }, []);
  return { answer, busy, ask };
}
