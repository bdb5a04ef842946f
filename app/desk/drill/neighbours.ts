import { useCallback, useRef } from 'react';
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

/** A list as it was when it still had the record that is opened, and as it is now. */
interface Lists {
  readonly known: readonly OpenedRecord[];
  readonly now: readonly OpenedRecord[];
}

const placeIn = (list: readonly OpenedRecord[], of: OpenedRecord): number =>
  list.findIndex(({ pane, key }) => pane === of.pane && key === of.key);

/** What stood beside a record, of what is still there. */
function besideIn({ known, now }: Lists, of: OpenedRecord): Neighbours {
  const at = placeIn(known, of);
  if (at < 0) return none;
  const isThere = ({ key }: OpenedRecord): boolean => now.some((each) => each.key === key);
  return {
    previous: known.slice(0, at).findLast(isThere) ?? null,
    next: known.slice(at + 1).find(isThere) ?? null,
  };
}

/** The record that is opened by itself; null where something else is, or more of it. */
const openedAlone = ([opened, ...more]: readonly Drill[]): OpenedRecord | null =>
  opened?.kind === 'record' && more.length === 0 ? opened : null;

/**
 * What stands beside a record that was opened from a list. It is that of the list as it was when it still had the record: what is done to one may
 * take it off the list, and whoever works through the list goes on from where it was. `besideOf` says it of what was opened a moment ago,
 * for keys that are quicker than the page is drawn.
 */
export function useNeighbours(
  drills: readonly Drill[],
  resultOf: (pane: string) => PaneResult | null,
  namesOf: (pane: string) => { readonly key?: string | undefined; readonly title?: string | undefined },
): Neighbours & { readonly besideOf: (drills: readonly Drill[]) => Neighbours } {
  const lists = useRef<Lists>({ known: [], now: [] });
  const besideOf = useCallback((of: readonly Drill[]) => {
    const opened = openedAlone(of);
    return opened ? besideIn(lists.current, opened) : none;
  }, []);
  const opened = openedAlone(drills);
  if (!opened) return { ...none, besideOf };
  const now = listed(opened.pane, resultOf(opened.pane), namesOf(opened.pane));
  lists.current = { known: placeIn(now, opened) >= 0 ? now : lists.current.known, now };
  return { ...besideIn(lists.current, opened), besideOf };
}
