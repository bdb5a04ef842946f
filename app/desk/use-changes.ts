import { useEffect, useRef } from 'react';
import type { DashboardView } from '#server/panes/shown.ts';
import { watch } from './live-line.ts';

/** Hears from the server which data sets of an open page show new records; of none in particular after the line was lost. */
export function useChanges(
  { id, draft }: Pick<DashboardView, 'id' | 'draft'>,
  onChange: (dataSets: readonly string[]) => void,
): void {
  const latest = useRef(onChange);
  latest.current = onChange;
  useEffect(() => watch(draft ? `${id}.draft` : id, (dataSets) => latest.current(dataSets)), [id, draft]);
}
