import { keepPreviousData, QueryClient, useQuery } from '@tanstack/react-query';
import { useCallback, useId, useRef, useState } from 'react';
import type { Problem } from '#core/value/problem/problem.ts';
import { here } from './here.ts';

/** Remembers the answers to questions that change nothing, for those who go back to one. */
const questions = new QueryClient({
  defaultOptions: {
    queries: {
      gcTime: 60_000,
      placeholderData: keepPreviousData,
      refetchOnWindowFocus: false,
      // This server may be there where the internet is not.
      networkMode: 'always',
    },
  },
});

/** What a question came to when no answer came. */
export const lostProblem = (doing: string, mend = 'Try it again.'): Problem => ({
  code: 'unreachable',
  doing,
  why: 'the connection was lost, or you have been signed out',
  mend,
});

/** An answer of the server that is none to the question; to ask again changes nothing. */
class NoAnswer extends Error {
  readonly isSignedOut: boolean;
  constructor(response: Response) {
    super(`the server answered ${response.status}`);
    this.isSignedOut = response.redirected || response.status === 401;
  }
}

/**
 * Asks an address for JSON, again where it was asked before and may have changed: what was answered then stands meanwhile, and
 * the answer to another address until there is one. Only the latest address counts.
 */
export function useAnswer<Answer extends object>(
  address: string,
  /** What the answers are about as it is now: another one is another question. */
  state: number,
): { answer: Answer | undefined; isLost: boolean; isSignedOut: boolean } {
  const { data, error } = useQuery(
    {
      queryKey: [address, state],
      queryFn: async ({ signal }) => {
        const response = await fetch(here(address), { signal });
        if (!response.ok || !response.headers.get('content-type')?.startsWith('application/json'))
          throw new NoAnswer(response);
        return (await response.json()) as Answer;
      },
      retry: (times, thrown) => times < 2 && !(thrown instanceof NoAnswer),
    },
    questions,
  );
  return {
    answer: data,
    isLost: error !== null,
    isSignedOut: error instanceof NoAnswer && error.isSignedOut,
  };
}

/** Sends something as JSON. What was lost on the way, or refused, is the answer `lost`; so is what nobody waits for any more. */
export async function postJson<Answer extends object>(
  address: string,
  about: object | FormData,
  lost: Answer,
  signal?: AbortSignal,
): Promise<Answer> {
  try {
    const response = await fetch(here(address), {
      method: 'POST',
      ...(about instanceof FormData
        ? { body: about }
        : { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(about) }),
      ...(signal ? { signal } : {}),
    });
    return response.ok ? ((await response.json()) as Answer) : lost;
  } catch {
    return lost;
  }
}

/**
 * Asks the server something that is too long for an address, and changes nothing. Only the latest question counts. `lost` is the
 * answer where none came.
 */
export function useQuestion<Answer extends object>(
  address: string,
  lost: Answer,
): { answer: Answer | undefined; busy: boolean; ask: (about: object) => void; stop: () => void } {
  const asker = useId();
  const turns = useRef(0);
  const [question, setQuestion] = useState<{ readonly about: object; readonly turn: number } | null>(null);
  const { data, isFetching } = useQuery(
    {
      // Asked again, the same is another question: its answer may be another by now.
      queryKey: [address, asker, question?.turn],
      enabled: question !== null,
      queryFn: ({ signal }) => postJson(address, question?.about ?? {}, lost, signal),
      retry: false,
      staleTime: Number.POSITIVE_INFINITY,
      gcTime: 0,
    },
    questions,
  );
  const ask = useCallback((about: object): void => {
    turns.current += 1;
    setQuestion({ about, turn: turns.current });
  }, []);
  /** Nobody waits for the answer any more: what works on it at the server is stopped. */
  const stop = useCallback((): void => setQuestion(null), []);
  return { answer: data, busy: isFetching, ask, stop };
}
