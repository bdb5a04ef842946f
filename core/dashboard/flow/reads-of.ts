import { viewedAs } from '#core/dashboard/pane/in-step.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import { type Focus, pathText } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { hasOwnTime } from './applies.ts';
import { clauseField, givesInput } from './clauses.ts';
import { type Context, shortNames } from './context.ts';
import { counterpart } from './counterpart.ts';
import { offeredFields } from './offered.ts';
import { once } from './once.ts';
import { effectOf, linksOf, needOf } from './reach.ts';
import type { Reads } from './reads.ts';

/** Works out what each pane of a dashboard reads, by pane id. */
export const readsOf = once(
  (context): Readonly<Record<string, Reads>> =>
    Object.fromEntries(context.dashboard.panes.map((pane) => [pane.id, readsOfPane(pane, context)])),
);

function readsOfPane(pane: Pane, context: Pick<Context, 'dashboard' | 'dataSets'>): Reads {
  const viewed = context.dashboard.panes.find(({ id }) => id === viewedAs(pane)) ?? pane;
  const parts = Object.entries(kindOf(viewed).view?.(viewed) ?? {});
  return {
    ...readsOfUses(usesOf(pane), context),
    viewedAs: viewedAs(pane),
    shownOnly: parts.flatMap(([name, { takes }]) => (takes === 'shown' || takes === 'opened' ? [name] : [])),
  };
}

/** What is read by any of several uses. A pick only marks what none of them is narrowed by it. */
export function readsOfUses(
  uses: readonly PaneUse[],
  context: Pick<Context, 'dashboard' | 'dataSets'>,
): Reads {
  const each = uses.flatMap((use) => {
    const dataSet = context.dataSets.get(use.dataSet);
    return dataSet ? [readsOfUse(use, dataSet, context)] : [];
  });
  const all = (part: (reads: UseReads) => readonly string[]): string[] => [...new Set(each.flatMap(part))];
  const narrowing = (mark: string): boolean =>
    each.some(
      (reads) =>
        reads.focus.includes(mark.slice(0, mark.lastIndexOf('@'))) && !reads.marksOnly.includes(mark),
    );
  return {
    dataSets: [...new Set(uses.map(({ dataSet }) => dataSet))],
    followsPicks: uses.length > 0 && uses.every(({ follows }) => follows === 'picks'),
    clauses: all(({ clauses }) => clauses),
    own: all(({ own }) => own),
    focus: all(({ focus }) => focus),
    marksOnly: all(({ marksOnly }) => marksOnly).filter((mark) => !narrowing(mark)),
    marks: all(({ marks }) => marks),
    ownTime: all(({ ownTime }) => ownTime),
    viewedAs: '',
    shownOnly: [],
  };
}

type UseReads = Omit<Reads, 'dataSets' | 'followsPicks' | 'viewedAs' | 'shownOnly'>;

function readsOfUse(
  use: PaneUse,
  dataSet: DataSet,
  { dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>,
): UseReads {
  const paths = [...shortNames(dashboard, dataSets)].flatMap(([id, short]) => {
    const of = dataSets.get(id);
    // Only what readers may speak of is told to their pages.
    const named = of ? new Set([...offeredFields(dashboard, id, of), of.key]) : new Set();
    return of
      ? of.fields
          .filter(({ name }) => named.has(name))
          .map(({ name }) => ({ of, path: { dataSet: short, field: name } }))
      : [];
  });
  const isOwnTimeField = (here: string | null): boolean =>
    hasOwnTime(
      use,
      dataSet.fields.find(({ name }) => name === here),
    );
  const isOwnTime = ({ of, path }: (typeof paths)[number]): boolean =>
    isOwnTimeField(counterpart(path.field, of, dataSet));
  const isOwnTimeClause = (clause: Clause): boolean =>
    isOwnTimeField(clauseField(clause, dataSets.get(clause.dataSet), dataSet));
  const reached = paths.filter(({ of, path }) => counterpart(path.field, of, dataSet) !== null);
  const effect = ({ of, path }: (typeof paths)[number], unit?: Focus['unit']) =>
    effectOf({ ...path, ...(unit ? { unit } : {}), value: '' }, of, use, dataSet).kind;
  const need = needOf(use, dataSet);
  const { follows, unit } = use;
  return {
    clauses:
      follows === 'picks' && dataSet.inputs.length === 0
        ? []
        : dashboard.scope
            .filter((clause) => {
              const of = dataSets.get(clause.dataSet);
              return (
                dataSet.inputs.some((input) => givesInput(clause, of, input)) ||
                (clauseField(clause, of, dataSet) !== null && !isOwnTimeClause(clause))
              );
            })
            .map(({ name }) => name),
    own:
      follows === 'picks' ? [] : reached.filter((each) => !isOwnTime(each)).map(({ path }) => pathText(path)),
    focus: paths
      .filter((each) => {
        const field = each.of.fields.find(({ name }) => name === each.path.field);
        const meaning = field && (field.refers ?? field.origin);
        const supplies =
          meaning !== undefined &&
          (meaning === need || dataSet.inputs.some(({ refers }) => refers === meaning));
        // A picked record gives what it refers to as well.
        const leads =
          each.path.field === each.of.key &&
          linksOf(each.of).some(
            (link) => link.meaning === need || dataSet.inputs.some(({ refers }) => refers === link.meaning),
          );
        if (isOwnTime(each)) return supplies || leads;
        return (
          supplies ||
          leads ||
          effect(each) === 'narrows' ||
          (unit !== undefined && effect(each, 'day') === 'narrows')
        );
      })
      .map(({ path }) => pathText(path)),
    marksOnly:
      unit === undefined
        ? []
        : reached
            .filter((each) => effect(each, unit) === 'marks')
            .map(({ path }) => `${pathText(path)}@${unit}`),
    marks: paths.filter((each) => effect(each) === 'marks').map(({ path }) => pathText(path)),
    ownTime: [
      ...paths.filter(isOwnTime).map(({ path }) => pathText(path)),
      ...dashboard.scope.filter(isOwnTimeClause).map(({ name }) => name),
    ],
  };
}
