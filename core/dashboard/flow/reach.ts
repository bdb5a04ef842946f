import type { PaneUse } from '#core/dashboard/pane/use.ts';
import type { Focus } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { meaningOf } from '#core/value/field/value.ts';
import { counterpart } from './counterpart.ts';

/** What a pick does to what a pane uses: keeps the records of the pick, only marks it, or nothing. */
export type Effect = { kind: 'narrows' | 'marks'; field: string } | { kind: 'none' };

/**
 * A picked record fills details of it and narrows what refers to it, but does not shrink the lists and charts it was
 * picked from; a chart grouped by the picked field shows which part was picked and keeps the others in view.
 */
export function effectOf(focus: Focus, picked: DataSet, use: PaneUse, dataSet: DataSet): Effect {
  const field = use.about ? null : counterpart(focus.field, picked, dataSet);
  if (field === null) return { kind: 'none' };
  if (field === dataSet.key) return { kind: use.follows === 'picks' ? 'narrows' : 'marks', field };
  return { kind: use.marks?.(field, focus.unit) ? 'marks' : 'narrows', field };
}

/** What a pane is of, or must be given before it can show anything: one that follows picks its own record, any pane what it waits for. */
export function needOf(use: PaneUse, dataSet: DataSet): string | null {
  if (use.about) return use.about.meaning;
  if (use.waitsFor !== undefined) return use.waitsFor;
  if (use.follows === 'scope') return null;
  const key = dataSet.fields.find(({ name }) => name === dataSet.key);
  return (key && meaningOf(key)) ?? null;
}

/** The keys that a record refers to, by field: what a picked record leads to. */
export const linksOf = (dataSet: DataSet): { readonly field: string; readonly meaning: string }[] =>
  dataSet.fields.flatMap(({ name, refers }) =>
    refers === undefined || name === dataSet.key ? [] : [{ field: name, meaning: refers }],
  );

/** What a reader can pick in a pane, as meanings: records that it lists whose data set has a key, and what those refer to. */
export function offerOf({ lists }: PaneUse, dataSet: DataSet): string[] {
  const key = dataSet.fields.find(({ name }) => name === dataSet.key);
  if (!lists || !key) return [];
  const own = meaningOf(key);
  return [...(own === undefined ? [] : [own]), ...linksOf(dataSet).map(({ meaning }) => meaning)];
}
