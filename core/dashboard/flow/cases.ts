import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { ShownRecord } from '#core/dashboard/pane/shown.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { cellText, meaningOf } from '#core/value/field/value.ts';
import type { Context } from './context.ts';

/** A pane that follows one case, and a case for it. */
export interface RecordCase {
  readonly pane: Pane;
  readonly meaning: string;
  readonly value: string;
}

/** The panes that follow what a record is, or else what it is of, as far as it shows that: each with its case. */
export function casesOf(
  { fields, record }: Pick<ShownRecord, 'fields' | 'record'>,
  dataSet: DataSet,
  { panes }: Pick<Dashboard, 'panes'>,
): RecordCase[] {
  const known = fields
    .flatMap(({ name }, at) => {
      const field = dataSet.fields.find((each) => each.name === name);
      const meaning = field && meaningOf(field);
      const value = cellText(record?.[at] ?? null);
      return meaning === undefined || value === null ? [] : [{ name, meaning, value }];
    })
    .sort((a, b) => Number(b.name === dataSet.key) - Number(a.name === dataSet.key));
  return panes.flatMap((pane): RecordCase[] => {
    const follows = new Set(usesOf(pane).flatMap(({ about }) => about?.meaning ?? []));
    const found = known.find(({ meaning }) => follows.has(meaning));
    return found ? [{ pane, meaning: found.meaning, value: found.value }] : [];
  });
}

/** The context in which a pane is of this case, whatever is picked or typed on the page. */
export const inCase = (context: Context, { meaning, value }: Omit<RecordCase, 'pane'>): Context => ({
  ...context,
  picked: { names: {}, links: { [meaning]: value } },
  scope: { ...context.scope, focus: [], views: {} },
});
