import { useEffect } from 'react';
import { useFetcher, useLocation } from 'react-router';
import type { Clause } from '#core/dashboard/schema.ts';
import type { Problem } from '#core/problem/problem.ts';
import type { ClauseValues } from '#server/panes/values.ts';
import { useDesk } from './desk-context.ts';

type Found = { ok: true; found: ClauseValues } | { ok: false; problem: Problem };

/** What a clause can be set to under the rest of the sentence; undefined until it is known. */
export function useClauseValues(clause: Clause, find: string): Found | undefined {
  const { view } = useDesk();
  const { search } = useLocation();
  const fetcher = useFetcher<Found>();
  const { load } = fetcher;
  useEffect(() => {
    const params = new URLSearchParams(search);
    params.delete('_drill');
    params.set('_clause', clause.name);
    if (view.draft) params.set('_draft', '1');
    if (find) params.set('_find', find);
    const timer = setTimeout(() => void load(`/view/${view.id}/values?${params}`), find ? 200 : 0);
    return () => clearTimeout(timer);
  }, [clause.name, find, load, search, view.id, view.draft]);
  return fetcher.data;
}
