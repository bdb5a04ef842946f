import { relationOf } from '#core/dashboard/flow/applies.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { formatCell } from '#core/value/format/format.ts';
import { runPlan } from '../records/run.ts';
import { withKeyOf } from './opened-record.ts';
import { paneFilter } from './visible.ts';

/** A record that was found by its name, and the pane that it is opened from. */
export interface FoundRecord {
  readonly pane: string;
  readonly key: string;
  readonly title: string;
  readonly noun: string;
}

/** This many of one data set; more are found by typing more. */
const mostOfOne = 5;

interface Named {
  readonly pane: Pane;
  readonly use: PaneUse;
  readonly dataSet: DataSet;
  readonly key: string;
  readonly title: string;
}

/** The records of a dashboard that have names: for each data set, those of the first pane that shows them. */
function namedRecords({ dashboard, dataSets }: Context): Named[] {
  const seen = new Set<string>();
  return dashboard.panes.flatMap((pane): Named[] => {
    const opened = withKeyOf(pane, dataSets);
    if (!opened || seen.has(opened.use.dataSet) || opened.use.waitsFor !== undefined) return [];
    const { use, dataSet, key } = opened;
    const title = dataSet.title ?? key;
    if (!use.shows(dataSet).includes(title)) return [];
    seen.add(use.dataSet);
    return [{ pane, use, dataSet, key, title }];
  });
}

/**
 * Records whose names hold a text, under the conditions of the panes that show them, whatever the scope. A source that does not
 * answer leaves out its own.
 */
export async function findRecords(
  text: string,
  context: Context,
  signal?: AbortSignal,
): Promise<FoundRecord[]> {
  const typed = text.trim();
  if (typed === '') return [];
  const found = await Promise.all(
    namedRecords(context).map(async ({ pane, use, dataSet, key, title }): Promise<FoundRecord[]> => {
      const { relation, missing } = relationOf(dataSet, context);
      if (missing) return [];
      const plan: RecordsPlan = {
        kind: 'records',
        from: relation,
        zone: context.clock.zone,
        where: allOf([
          paneFilter(use, dataSet, context),
          { field: title, test: { op: 'contains', text: typed } },
        ]),
        fields: [...new Set([title, key])],
        order: [],
        key,
        offset: 0,
        limit: mostOfOne,
      };
      try {
        const { records } = await runPlan(plan, { doing: `finding ${dataSet.noun.many}`, signal });
        const named = dataSet.fields.find(({ name }) => name === title) ?? { type: 'text' as const };
        return records.flatMap((record): FoundRecord[] => {
          const [name = null] = record;
          const id = record[plan.fields.indexOf(key)] ?? null;
          return id === null
            ? []
            : [
                {
                  pane: pane.id,
                  key: String(id),
                  title: formatCell(name, named, context.clock),
                  noun: dataSet.noun.one,
                },
              ];
        });
      } catch {
        return [];
      }
    }),
  );
  return found.flat();
}
