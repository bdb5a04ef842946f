import { useEffect, useRef } from 'react';
import { watchedAs } from '#core/dashboard/edition.ts';
import type { DashboardView } from '#server/panes/shown.ts';
import { tellOfFollowUps } from './follow-up/news.ts';
import { watch } from './live-line.ts';

/** Hears from the server which data sets of an open page show new records, and that what the person has to follow up is otherwise. */
export function useChanges(
  { id, edition }: Pick<DashboardView, 'id' | 'edition'>,
  onChange: (dataSets: readonly string[]) => void,
): void {
  const latest = useRef(onChange);
  latest.current = onChange;
  useEffect(
    () =>
      watch(watchedAs(id, edition), {
        changed: (dataSets) => latest.current(dataSets),
        given: tellOfFollowUps,
      }),
    [id, edition],
  );
}
