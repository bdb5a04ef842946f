import { useEffect, useState } from 'react';
import { useLocation } from 'react-router';
import { setEdition } from '#core/dashboard/edition.ts';
import { scopeParams } from '#core/dashboard/scope/address.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import { lostProblem, useAnswer } from '../ui/use-question.ts';
import { useDesk } from './desk-context.ts';

export type ViewAnswer<T> = ({ readonly ok: true } & T) | { readonly ok: false; readonly problem: Problem };

/** A value once it has stood still for some milliseconds; at once where that is 0. */
function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return ms === 0 ? value : settled;
}

/**
 * Asks something about a dashboard under its scope, again whenever its records change. `typed`: milliseconds to wait for more
 * to be typed. Undefined until an answer is there.
 */
export function useViewAnswer<T extends object>(
  path: 'behind' | 'find' | 'follow-up' | 'record' | 'values',
  doing: string,
  about: readonly (readonly [name: string, value: string])[],
  typed = 0,
): ViewAnswer<T> | undefined {
  const { view, turn, onSignedOut } = useDesk();
  const { search } = useLocation();
  const params = scopeParams(search);
  setEdition(params, view.edition);
  for (const [name, value] of about) params.append(name, value);
  const address = useSettled(`/view/${view.id}/${path}?${params}`, typed);
  const { answer, isLost, isSignedOut } = useAnswer<ViewAnswer<T>>(address, turn);
  useEffect(() => {
    if (isSignedOut) onSignedOut();
  }, [isSignedOut, onSignedOut]);
  return isLost ? { ok: false, problem: lostProblem(doing) } : answer;
}
