import { useCallback, useEffect, useRef, useState } from 'react';
import type { Problem } from '#core/value/problem/problem.ts';

/** What a question came to when no answer came. */
export const lostProblem = (doing: string, mend = 'Try it again.'): Problem => ({
  code: 'unreachable',
  doing,
  why: 'the connection was lost, or you have been signed out',
  mend,
});

/** Sends something as JSON. What was lost on the way, or refused, is the answer `lost`; so is what nobody waits for any more. */
export async function postJson<Answer extends object>(
  address: string,
  about: object,
  lost: Answer,
  signal: AbortSignal,
): Promise<Answer> {
  try {
    const response = await fetch(address, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(about),
      signal,
    });
    return response.ok ? ((await response.json()) as Answer) : lost;
  } catch {
    return lost;
  }
}

/**
 * Asks the server something that changes nothing. It is no submission of the router's: no page is loaded anew for it, and
 * a link that is clicked meanwhile is followed. Only the latest question counts. `lost` is the answer where none came.
 */
export function useQuestion<Answer extends object>(
  address: string,
  lost: Answer,
): { answer: Answer | undefined; busy: boolean; ask: (about: object) => void; stop: () => void } {
  const [answer, setAnswer] = useState<Answer>();
  const [busy, setBusy] = useState(false);
  const asking = useRef<AbortController | null>(null);
  const ifLost = useRef(lost);
  useEffect(() => () => asking.current?.abort(), []);
  const ask = useCallback(
    (about: object): void => {
      asking.current?.abort();
      const mine = new AbortController();
      asking.current = mine;
      setBusy(true);
      void postJson(address, about, ifLost.current, mine.signal).then((answered) => {
        if (mine.signal.aborted) return;
        setAnswer(answered);
        setBusy(false);
      });
    },
    [address],
  );
  /** Nobody waits for the answer any more: what works on it at the server is stopped. */
  const stop = useCallback((): void => {
    asking.current?.abort();
    setBusy(false);
  }, []);
  return { answer, busy, ask, stop };
}
