import { useRef } from 'react';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import { cellText } from '#core/value/field/value.ts';
import type { Drill } from '../drill-address.ts';

type OpenedRecord = Extract<Drill, { kind: 'record' }>;

/** The records before and after one that was opened, in the list that it was opened from; null where there is none. */
export interface Neighbours {
  readonly previous: OpenedRecord | null;
  readonly next: OpenedRecord | null;
}

const none: Neighbours = { previous: null, next: null };

const listOf = (result: PaneResult | null) =>
  result?.state === 'ready' && 'records' in result.body && 'fields' in result.body ? result.body : null;

export const isListing = (result: PaneResult | null): boolean => listOf(result) !== null;

/** The records that a pane lists, in the order in which they stand there. */
function listed(
  pane: string,
  result: PaneResult | null,
  { key, title }: { readonly key?: string | undefined; readonly title?: string | undefined },
): OpenedRecord[] {
  const body = listOf(result);
  if (!body) return [];
  const { records, fields } = body;
  const at = (name: string | undefined): number => fields.findIndex((field) => field.name === name);
  const [keyAt, titleAt] = [at(key), at(title)];
  if (keyAt < 0) return [];
  return records.flatMap((cells): OpenedRecord[] => {
    const own = cellText(cells[keyAt] ?? null);
    return own === null
      ? []
      : [{ kind: 'record', pane, key: own, title: cellText(cells[titleAt] ?? null) ?? own }];
  });
}

/**
 * What stands beside a record that was opened from a list. It is that of the list as it was when it still had the record: what is done to one may
 * take it off the list, and whoever works through the list goes on from where it was.
 */
export function useNeighbours(
  drills: readonly Drill[],
  resultOf: (pane: string) => PaneResult | null,
  namesOf: (pane: string) => { readonly key?: string | undefined; readonly title?: string | undefined },
): Neighbours {
  const known = useRef<readonly OpenedRecord[]>([]);
  const [opened] = drills;
  if (opened?.kind !== 'record' || drills.length > 1) return none;
  const find = (list: readonly OpenedRecord[]): number =>
    list.findIndex(({ pane, key }) => pane === opened.pane && key === opened.key);
  const now = listed(opened.pane, resultOf(opened.pane), namesOf(opened.pane));
  if (find(now) >= 0) known.current = now;
  const at = find(known.current);
  if (at < 0) return none;
  // Of those that stood there, the ones that still do.
  const isThere = ({ key }: OpenedRecord): boolean => now.some((each) => each.key === key);
  return {
    previous: known.current.slice(0, at).findLast(isThere) ?? null,
    next: known.current.slice(at + 1).find(isThere) ?? null,
  };
}
