import { useCallback, useReducer } from 'react';

interface History<T> {
  readonly past: readonly T[];
  readonly now: T;
  readonly future: readonly T[];
  /** When and what the latest change was about, so that typing is undone at once and not letter by letter. */
  readonly about: string;
  readonly at: number;
}

type Act<T> =
  | { readonly kind: 'put'; readonly next: T; readonly about: string; readonly at: number }
  | { readonly kind: 'undo' | 'redo' };

const mostPast = 200;
/** Changes of the same thing within this time are one. */
const togetherMs = 900;

function reduce<T>(history: History<T>, act: Act<T>): History<T> {
  const { past, now, future } = history;
  switch (act.kind) {
    case 'put': {
      const isSame = act.about !== '' && act.about === history.about && act.at - history.at < togetherMs;
      return {
        past: isSame ? past : [...past, now].slice(-mostPast),
        now: act.next,
        future: [],
        about: act.about,
        at: act.at,
      };
    }
    case 'undo': {
      const before = past.at(-1);
      if (before === undefined) return history;
      return { past: past.slice(0, -1), now: before, future: [now, ...future], about: '', at: 0 };
    }
    case 'redo': {
      const [next, ...rest] = future;
      if (next === undefined) return history;
      return { past: [...past, now], now: next, future: rest, about: '', at: 0 };
    }
  }
}

/** A value whose changes can be taken back and made again, with what it was before. `about` names what changed, so that typing counts as one change. */
export function useHistory<T>(start: T) {
  const [{ past, now, future }, act] = useReducer(reduce<T>, {
    past: [],
    now: start,
    future: [],
    about: '',
    at: 0,
  });
  const put = useCallback(
    (next: T, about = '') => act({ kind: 'put', next, about, at: performance.now() }),
    [],
  );
  return {
    now,
    past,
    put,
    undo: past.length > 0 ? () => act({ kind: 'undo' }) : null,
    redo: future.length > 0 ? () => act({ kind: 'redo' }) : null,
  };
}
