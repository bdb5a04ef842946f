import { createContext, useCallback, useReducer, useRef } from 'react';
import type { PaneResult } from '#core/dashboard/pane/result.ts';
import { cellText } from '#core/value/field/value.ts';
import { type Drill, drillToText } from '../drill-address.ts';

export type OpenedRecord = Extract<Drill, { kind: 'record' }>;

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

const has = (list: readonly OpenedRecord[], key: string): boolean => list.some((each) => each.key === key);

/** What stood beside a record, of what is still there. */
function besideIn({ known, now }: Lists, { key }: OpenedRecord): Neighbours {
  const at = known.findIndex((each) => each.key === key);
  if (at < 0) return none;
  const isThere = (each: OpenedRecord): boolean => has(now, each.key);
  return {
    previous: known.slice(0, at).findLast(isThere) ?? null,
    next: known.slice(at + 1).find(isThere) ?? null,
  };
}

const keysOf = ({ previous, next }: Neighbours): string => JSON.stringify([previous?.key, next?.key]);

/** Tells which records a list shows at a level, none being the page's own. */
export type TellList = (levels: readonly Drill[], pane: string, records: readonly OpenedRecord[]) => void;

/** Where the lists of a level tell what they show. */
export const ListContext = createContext<(pane: string, records: readonly OpenedRecord[]) => void>(() => {});

const placeOf = (levels: readonly Drill[], pane: string): string =>
  JSON.stringify([pane, ...levels.map(drillToText)]);

/**
 * What stands beside a record that was opened from a list, of the page or of the level before it. It is that of the list as it was when
 * it still had the record: what is done to one may take it off the list, and whoever works through the list goes on from where it was.
 * `besideOf` says it of what was opened a moment ago, for keys that are quicker than the page is drawn.
 */
export function useNeighbours(
  drills: readonly Drill[],
  resultOf: (pane: string) => PaneResult | null,
  namesOf: (pane: string) => { readonly key?: string | undefined; readonly title?: string | undefined },
): Neighbours & { readonly besideOf: (drills: readonly Drill[]) => Neighbours; readonly tell: TellList } {
  const lists = useRef(new Map<string, Lists>());
  const shown = useRef(drills);
  shown.current = drills;
  const note: TellList = useCallback((levels, pane, now) => {
    const place = placeOf(levels, pane);
    const before = lists.current.get(place)?.known ?? [];
    const opened = shown.current[levels.length];
    const isOff = opened?.kind === 'record' && has(before, opened.key) && !has(now, opened.key);
    lists.current.set(place, { known: isOff ? before : now, now });
  }, []);
  const besideOf = useCallback((of: readonly Drill[]) => {
    const opened = of.at(-1);
    const from = opened?.kind === 'record' && lists.current.get(placeOf(of.slice(0, -1), opened.pane));
    return from ? besideIn(from, opened) : none;
  }, []);
  const [, drawAgain] = useReducer((times: number) => times + 1, 0);
  // A list that comes after the record, as it does where a page is opened by its address.
  const tell: TellList = useCallback(
    (levels, pane, now) => {
      const before = besideOf(shown.current);
      note(levels, pane, now);
      const after = besideOf(shown.current);
      if (keysOf(before) !== keysOf(after)) drawAgain();
    },
    [note, besideOf],
  );
  const [first] = drills;
  if (first?.kind === 'record')
    note([], first.pane, listed(first.pane, resultOf(first.pane), namesOf(first.pane)));
  return { ...besideOf(drills), besideOf, tell };
}
