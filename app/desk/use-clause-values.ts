import type { Clause } from '#core/dashboard/schema.ts';
import type { ClauseValues } from '#server/panes/values.ts';
import type { ValueCounts } from '#server/value-counts.ts';
import { useViewAnswer } from './use-view-answer.ts';

function useValues<T>(of: '_clause' | '_field', name: string, find: string) {
  const about: [string, string][] = [[of, name]];
  if (find) about.push(['_find', find]);
  return useViewAnswer<{ found: T }>('values', 'finding values', about, find ? 200 : 0);
}

/** What a clause can be set to under the rest of the sentence; undefined until it is known. */
export const useClauseValues = (clause: Clause, find: string) =>
  useValues<ClauseValues>('_clause', clause.name, find);

/** The values of a field under the sentence, the field as addresses name it. */
export const useFieldValues = (path: string, find: string) => useValues<ValueCounts>('_field', path, find);
