import type { DataSet } from '#core/dataset/schema.ts';
import { meaningOf } from '#core/field/value.ts';
import { kindOf } from '#core/pane/kinds.ts';
import type { Pane } from '#core/pane/schema.ts';
import type { Focus } from '#core/scope/state.ts';

/** A meaning that is a bare word is one for all sources ("passage"); `schema.table.column` is a column of one source. */
const isOfDesk = (meaning: string): boolean => !meaning.includes('.');

/**
 * How a field of one data set is found in another: the same field of the same data set, else a field with the same meaning,
 * of the same source unless the meaning is one for all. This is all the wiring there is. Null: the other data set has no such thing.
 */
export function counterpart(field: string, of: DataSet, inside: DataSet): string | null {
  const own = of.fields.find(({ name }) => name === field);
  if (!own) return null;
  if (of === inside) return field;
  const meaning = meaningOf(own);
  if (meaning === undefined || (of.source !== inside.source && !isOfDesk(meaning))) return null;
  const alike = inside.fields.filter((each) => meaningOf(each) === meaning);
  return (alike.find(({ name }) => name === field) ?? alike[0])?.name ?? null;
}

/** What a pick does to a pane: keeps the records of the pick, only marks it, or nothing. */
export type Effect = { kind: 'narrows' | 'marks'; field: string } | { kind: 'none' };

/**
 * A picked record fills details of it and narrows what refers to it, but does not shrink the lists and charts it was
 * picked from; a chart grouped by the picked field shows which part was picked and keeps the others in view.
 */
export function effectOf(focus: Focus, picked: DataSet, pane: Pane, dataSet: DataSet): Effect {
  const field = counterpart(focus.field, picked, dataSet);
  if (field === null) return { kind: 'none' };
  const { follows, marks } = kindOf(pane);
  if (field === dataSet.key) return { kind: follows === 'picks' ? 'narrows' : 'marks', field };
  return { kind: marks?.(pane, field, focus.unit) ? 'marks' : 'narrows', field };
}

/** What a pane must be given before it can show anything: one that follows picks its own record, any pane what it waits for. */
export function needOf(pane: Pane, dataSet: DataSet): string | null {
  if (pane.waitsFor !== undefined) return pane.waitsFor;
  if (kindOf(pane).follows === 'scope') return null;
  const key = dataSet.fields.find(({ name }) => name === dataSet.key);
  return (key && meaningOf(key)) ?? null;
}

/** The keys that a record refers to, by field: what a picked record leads to. */
export const linksOf = (dataSet: DataSet): { readonly field: string; readonly meaning: string }[] =>
  dataSet.fields.flatMap(({ name, refers }) =>
    refers === undefined || name === dataSet.key ? [] : [{ field: name, meaning: refers }],
  );

/** What a reader can pick in a pane, as meanings: records that it lists whose data set has a key, and what those refer to. */
export function offerOf(pane: Pane, dataSet: DataSet): string[] {
  const key = dataSet.fields.find(({ name }) => name === dataSet.key);
  if (!kindOf(pane).lists || !key) return [];
  const own = meaningOf(key);
  return [...(own === undefined ? [] : [own]), ...linksOf(dataSet).map(({ meaning }) => meaning)];
}
