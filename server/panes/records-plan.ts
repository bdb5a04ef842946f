import type { Filter } from '#core/ask/condition/resolve.ts';
import { relationOf } from '#core/dashboard/flow/applies.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { paneFilter } from './visible.ts';

/** Records of a pane's data set, under the conditions that the pane always has. */
export const recordsPlan = (
  of: PaneUse,
  data: DataSet,
  {
    where,
    fields,
    limit,
  }: { readonly where: Filter; readonly fields: readonly string[]; readonly limit: number },
  context: Context,
): RecordsPlan => ({
  kind: 'records',
  from: relationOf(data, context).relation,
  where: allOf([paneFilter(of, data, context), where]),
  zone: context.clock.zone,
  fields: [...fields],
  order: [],
  ...(limit > 1 && data.key !== undefined ? { key: data.key } : {}),
  offset: 0,
  limit,
});
