import { type Filter, resolveCondition } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { ownConditions, visibleCondition } from '#core/dashboard/flow/offered.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { allOf } from '#core/plan/plan.ts';

/* What of a data set may be seen at all, whatever the scope: under its own condition, always. */

const always = (
  conditions: readonly Condition[],
  dataSet: DataSet,
  { clock, person }: Pick<Context, 'clock' | 'person'>,
): Filter =>
  allOf(
    [...(dataSet.keeping ? [dataSet.keeping] : []), ...conditions].map((condition) =>
      resolveCondition(condition, dataSet.fields, clock, { person }),
    ),
  );

/** What a pane keeps of its data set. */
export const paneFilter = (records: PaneRecords, dataSet: DataSet, context: Context): Filter =>
  always(ownConditions(records, dataSet), dataSet, context);

/** What any of the panes of a dashboard can show of a data set. */
export function visibleFilter(id: string, dataSet: DataSet, context: Context): Filter {
  const visible = visibleCondition(context.dashboard, id, dataSet);
  return always(visible ? [visible] : [], dataSet, context);
}
