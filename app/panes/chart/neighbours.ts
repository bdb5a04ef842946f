import { useCallback, useEffect, useSyncExternalStore } from 'react';
import { isLogarithmic } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import { roundScale, type Scale } from './scale.ts';

/* Charts of one measure that stand side by side are on one scale, so that they compare. */

/** The least and the greatest that a chart draws. */
export interface Drawn {
  readonly least: number;
  readonly greatest: number;
}

const rows = new Map<string, Map<string, Drawn>>();
const scales = new Map<string, Scale>();
const watchers = new Set<() => void>();

/** What a chart has in common with those that it shares a scale with; null where it has a scale of its own. */
export function neighboursOf(pane: ChartPane): string | null {
  const { dataSet, measure, by, place, mark, ownScales, second } = pane;
  if (ownScales || second !== undefined || mark === 'pie' || isLogarithmic(pane)) return null;
  const way = mark === 'bars' ? 'across' : 'up';
  return JSON.stringify([dataSet, measure, by, place.y, place.h, way]);
}

function put(row: string, pane: string, drawn: Drawn | null): void {
  const members = rows.get(row) ?? new Map<string, Drawn>();
  rows.set(row, members);
  if (drawn) members.set(pane, drawn);
  else members.delete(pane);
  const all = [...members.values()];
  if (all.length > 1)
    scales.set(
      row,
      roundScale(
        Math.min(...all.map(({ least }) => least)),
        Math.max(...all.map(({ greatest }) => greatest)),
      ),
    );
  else scales.delete(row);
  for (const watcher of watchers) watcher();
}

const watch = (watcher: () => void): (() => void) => {
  watchers.add(watcher);
  return () => watchers.delete(watcher);
};

/** The scale of a row of charts; null where the chart stands alone in it. */
export function useRowScale(row: string | null, pane: string, drawn: Drawn | null): Scale | null {
  const { least, greatest } = drawn ?? { least: Number.NaN, greatest: Number.NaN };
  useEffect(() => {
    if (row === null || !Number.isFinite(least) || !Number.isFinite(greatest)) return;
    put(row, pane, { least, greatest });
    return () => put(row, pane, null);
  }, [row, pane, least, greatest]);
  const read = useCallback(() => (row === null ? null : (scales.get(row) ?? null)), [row]);
  return useSyncExternalStore(watch, read, () => null);
}
