import type { Clause } from '#core/dashboard/schema.ts';
import { kindOf } from '#core/pane/kinds.ts';
import type { Pane } from '#core/pane/schema.ts';
import { focusText } from '#core/scope/address.ts';
import { type Focus, pathText, type Scope } from '#core/scope/state.ts';
import { testToTexts } from '#core/scope/test-text.ts';
import { hasOwnTime } from './applies.ts';
import { clauseField, givesInput } from './clauses.ts';
import { type Context, shortNames } from './context.ts';
import { offeredFields } from './offered.ts';
import { counterpart, effectOf, linksOf, needOf } from './reach.ts';

/** What of a scope a pane reads. Plain data, so that the page itself can tell which panes a change touches. */
export interface Reads {
  readonly clauses: readonly string[];
  /** Paths whose own tests reach the pane. */
  readonly own: readonly string[];
  /** Paths whose picks narrow it; with the unit, where a pick of that unit only marks it. */
  readonly focus: readonly string[];
  readonly marksOnly: readonly string[];
  /** Paths whose picks it only shows, and is not narrowed by. */
  readonly marks: readonly string[];
  /** It has a period of its own, so that those of readers are none of its. */
  readonly ownTime: readonly string[];
}

/** Works out what each pane of a dashboard reads, by pane id. */
export function readsOf(context: Pick<Context, 'dashboard' | 'dataSets'>): Record<string, Reads> {
  return Object.fromEntries(context.dashboard.panes.map((pane) => [pane.id, readsOfPane(pane, context)]));
}

function readsOfPane(pane: Pane, { dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>): Reads {
  const dataSet = dataSets.get(pane.dataSet);
  if (!dataSet) return { clauses: [], own: [], focus: [], marksOnly: [], marks: [], ownTime: [] };
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
      pane,
      dataSet.fields.find(({ name }) => name === here),
    );
  const isOwnTime = ({ of, path }: (typeof paths)[number]): boolean =>
    isOwnTimeField(counterpart(path.field, of, dataSet));
  const isOwnTimeClause = (clause: Clause): boolean =>
    isOwnTimeField(clauseField(clause, dataSets.get(clause.dataSet), dataSet));
  const reached = paths.filter(({ of, path }) => counterpart(path.field, of, dataSet) !== null);
  const effect = ({ of, path }: (typeof paths)[number], unit?: Focus['unit']) =>
    effectOf({ ...path, ...(unit ? { unit } : {}), value: '' }, of, pane, dataSet).kind;
  const need = needOf(pane, dataSet);
  const { follows, unit: unitOf } = kindOf(pane);
  const unit = unitOf?.(pane);
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

/**
 * What of a scope does not narrow a pane though it narrows others: names of clauses, indices of the reader's own groups and of
 * picks. A pane that follows picks shows the record that it is about, whatever the scope; what a pane has a period of its own for is none of these.
 */
export function notNarrowedBy(
  reads: Reads,
  { clauses, own, focus }: Scope,
  set: readonly string[],
): { clauses: string[]; own: number[]; focus: number[] } {
  const isOwn = (path: string): boolean => reads.ownTime.includes(path);
  return {
    clauses: set.filter((name) => clauses[name] !== null && !reads.clauses.includes(name) && !isOwn(name)),
    own: own.flatMap((group, index) =>
      group.every((test) => reads.own.includes(pathText(test)) || isOwn(pathText(test))) ? [] : [index],
    ),
    focus: focus.flatMap((each, index) => {
      const path = pathText(each);
      const isReached =
        reads.focus.includes(path) ||
        reads.marks.includes(path) ||
        reads.marksOnly.includes(`${path}@${each.unit ?? ''}`) ||
        isOwn(path);
      return isReached ? [] : [index];
    }),
  };
}

/** A text that is the same for two scopes exactly when the pane would be asked the same. */
export function paneKey(pane: string, reads: Reads, scope: Scope): string {
  const clauses = reads.clauses.map((name) => {
    const test = scope.clauses[name];
    return test === undefined ? null : testToTexts(test);
  });
  const own = scope.own.filter((group) => group.every((test) => reads.own.includes(pathText(test))));
  const focus = scope.focus.filter(
    (each) =>
      reads.focus.includes(pathText(each)) &&
      !reads.marksOnly.includes(`${pathText(each)}@${each.unit ?? ''}`),
  );
  // Which columns are shown changes nothing that is asked.
  const { columns: _, ...view } = scope.tables[pane] ?? {};
  return JSON.stringify([pane, clauses, own, focus.map(focusText), view]);
}
