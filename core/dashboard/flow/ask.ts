import { viewedAs } from '#core/dashboard/pane/in-step.ts';
import type { Applied, PanePlan, UsedRecords } from '#core/dashboard/pane/kind.ts';
import { kindOf, type PaneBody } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { conditionWords } from '#core/words/condition.ts';
import { appliedTo, relationOf, waitsFor } from './applies.ts';
import { giversOf, nounOf } from './check.ts';
import type { Context } from './context.ts';
import { clauseWords } from './words/scope.ts';

/** What a pane waits for. `from`: the titles of the panes in which it can be chosen. */
export interface Waiting {
  readonly state: 'waiting';
  readonly choose: string;
  readonly from: readonly string[];
}

/** What to ask for a pane, or what it waits for. */
export type PaneQuery = Waiting | ({ readonly state: 'asking' } & PanePlan<PaneBody>);

/** Works out what to ask for a pane from its brief, the scope and the clock. Pure: the same context gives the same plans. */
export function ask(pane: Pane, context: Context): PaneQuery {
  const { dashboard, dataSets, clock, scope } = context;
  const view = scope.views[viewedAs(pane)] ?? {};
  const typed = kindOf(pane).typedCase?.(view);
  const records: UsedRecords[] = [];
  for (const use of usesOf(pane)) {
    const dataSet = dataSets.get(use.dataSet);
    if (!dataSet)
      throw new ProblemError({
        code: 'missing',
        doing: `reading “${pane.title}”`,
        why: 'its data set no longer exists',
        mend: 'Choose another data set in the brief.',
      });
    const waiting = waitsFor(use, dataSet, context);
    if (waiting !== null)
      return {
        state: 'waiting',
        choose: nounOf(waiting, dataSets),
        from: giversOf(waiting, dashboard, dataSets),
      };
    const { relation, missing } = relationOf(dataSet, context);
    if (missing !== null)
      return {
        state: 'waiting',
        choose: missing.label,
        from: missing.refers === undefined ? [] : giversOf(missing.refers, dashboard, dataSets),
      };
    records.push({
      dataSet,
      from: relation,
      applied: appliedTo(use, dataSet, context, typed),
      wordsOf: (one) => reasonWords(one, dataSet, context),
    });
  }
  const asking = kindOf(pane).ask(pane, { records, clock, view });
  return { state: 'asking', ...asking };
}

/** Something that narrows a pane, in words, and the clause that it is, where one. */
function reasonWords(
  { name, condition }: Applied,
  dataSet: DataSet,
  { dashboard, dataSets, clock }: Context,
): { words: string; name?: string } {
  const clause = dashboard.scope.find((each) => each.name === name);
  const test = condition && 'field' in condition ? condition.test : null;
  if (clause) {
    const words = `${clause.lead ?? ''} ${clauseWords(clause, test, dataSets.get(clause.dataSet), clock)}`;
    return { words: words.trim(), name: clause.name };
  }
  return {
    words: condition ? conditionWords(condition, dataSet.fields, clock) : 'what is being looked at',
  };
}
