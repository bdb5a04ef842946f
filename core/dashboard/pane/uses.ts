import { card } from './kinds/card/use.ts';
import { chart } from './kinds/chart/use.ts';
import { crosstab } from './kinds/crosstab/use.ts';
import { detail } from './kinds/detail/use.ts';
import { form } from './kinds/form/use.ts';
import { nextOne } from './kinds/next-one/use.ts';
import { note } from './kinds/note/use.ts';
import { recordCards } from './kinds/record-cards/use.ts';
import { table } from './kinds/table/use.ts';
import { trace } from './kinds/trace/use.ts';
import type { Pane } from './schema.ts';
import type { PaneUse } from './use.ts';

/** The records that panes of every kind show something of: none, of one data set, or of several, each narrowed by itself. */
const uses: { readonly [K in Pane['kind']]: (pane: Extract<Pane, { kind: K }>) => readonly PaneUse[] } = {
  card,
  chart,
  crosstab,
  table,
  detail,
  note,
  form,
  'next-one': nextOne,
  'record-cards': recordCards,
  trace,
};

const known = new WeakMap<Pane, readonly PaneUse[]>();

/** The records that a pane shows something of. */
export function usesOf(pane: Pane): readonly PaneUse[] {
  const found = known.get(pane) ?? (uses[pane.kind] as (of: Pane) => readonly PaneUse[])(pane);
  known.set(pane, found);
  return found;
}

/** How panes use the records of a data set. */
export const usesOfDataSet = (panes: readonly Pane[], dataSetId: string): PaneUse[] =>
  panes.flatMap((pane) => usesOf(pane).filter(({ dataSet }) => dataSet === dataSetId));

/** Whether a pane only asks for something, and shows nothing of the records that it is about. */
export function asksOnly(pane: Pane): boolean {
  const uses = usesOf(pane);
  return uses.length > 0 && uses.every(({ fields, measures }) => fields.length + measures.length === 0);
}
