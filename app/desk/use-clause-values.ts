import { useEffect } from 'react';
import { useFetcher, useLocation } from 'react-router';
import type { Clause } from '#core/dashboard/schema.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import type { ClauseValues } from '#server/panes/values.ts';
import type { ValueCounts } from '#server/value-counts.ts';
import { useDesk } from './desk-context.ts';

type Found<T> = { ok: true; found: T } | { ok: false; problem: Problem };

function useValues<T>(of: '_clause' | '_field', name: string, find: string): Found<T> | undefined {
  const { view } = useDesk();
  const { search } = useLocation();
  const fetcher = useFetcher<Found<T>>();
  const { load } = fetcher;
  useEffect(() => {
    const params = new URLSearchParams(search);
    params.delete('_drill');
    params.set(of, name);
    if (view.draft) params.set('_draft', '1');
    if (find) params.set('_find', find);
    const timer = setTimeout(() => void load(`/view/${view.id}/values?${params}`), find ? 200 : 0);
    return () => clearTimeout(timer);
  }, [of, name, find, load, search, view.id, view.draft]);
  return fetcher.data as Found<T> | undefined;
}

/** What a clause can be set to under the rest of the sentence; undefined until it is known. */
export const useClauseValues = (clause: Clause, find: string) =>
  useValues<ClauseValues>('_clause', clause.name, find);

/** The values of a field under the sentence, the field as addresses name it. */
export const useFieldValues = (path: string, find: string) => useValues<ValueCounts>('_field', path, find);
