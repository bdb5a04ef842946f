import type { Pane } from '#core/pane/schema.ts';
import { focusText } from '#core/scope/address.ts';
import { type Focus, pathText, type Scope } from '#core/scope/state.ts';
import { testToTexts } from '#core/scope/test-text.ts';
import { type Context, shortNames } from './context.ts';
import { counterpart, effectOf, needOf } from './reach.ts';

/** What of a scope a pane reads. Plain data, so that the page itself can tell which panes a change touches. */
export interface Reads {
  readonly clauses: readonly string[];
  /** Paths whose own tests reach the pane. */
  readonly own: readonly string[];
  /** Paths whose picks narrow it; with the unit, where a pick of that unit only marks it. */
  readonly focus: readonly string[];
  readonly marksOnly: readonly string[];
}

/** Works out what each pane of a dashboard reads, by pane id. */
export function readsOf(context: Pick<Context, 'dashboard' | 'dataSets'>): Record<string, Reads> {
  return Object.fromEntries(context.dashboard.panes.map((pane) => [pane.id, readsOfPane(pane, context)]));
}

function readsOfPane(pane: Pane, { dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>): Reads {
  const dataSet = dataSets.get(pane.dataSet);
  if (!dataSet) return { clauses: [], own: [], focus: [], marksOnly: [] };
  const paths = [...shortNames(dashboard, dataSets)].flatMap(([id, short]) => {
    const of = dataSets.get(id);
    return of ? of.fields.map(({ name }) => ({ of, path: { dataSet: short, field: name } })) : [];
  });
  const reached = paths.filter(({ of, path }) => counterpart(path.field, of, dataSet) !== null);
  const effect = ({ of, path }: (typeof paths)[number], unit?: Focus['unit']) =>
    effectOf({ ...path, ...(unit ? { unit } : {}), value: '' }, of, pane, dataSet).kind;
  const need = needOf(pane, dataSet);
  return {
    clauses:
      pane.kind === 'detail' && dataSet.inputs.length === 0
        ? []
        : dashboard.scope
            .filter((clause) => {
              const of = dataSets.get(clause.dataSet);
              const supplies = dataSet.inputs.some(
                ({ name, refers }) => name === clause.name || refers !== undefined,
              );
              return supplies || (of && counterpart(clause.field, of, dataSet) !== null);
            })
            .map(({ name }) => name),
    own: pane.kind === 'detail' ? [] : reached.map(({ path }) => pathText(path)),
    focus: paths
      .filter((each) => {
        const field = each.of.fields.find(({ name }) => name === each.path.field);
        const meaning = field && (field.refers ?? field.origin);
        const supplies =
          meaning !== undefined &&
          (meaning === need || dataSet.inputs.some(({ refers }) => refers === meaning));
        const byUnit = pane.kind === 'chart' && pane.by.unit !== undefined;
        return supplies || effect(each) === 'narrows' || (byUnit && effect(each, 'day') === 'narrows');
      })
      .map(({ path }) => pathText(path)),
    marksOnly:
      pane.kind === 'chart' && pane.by.unit
        ? reached
            .filter((each) => effect(each, pane.by.unit) === 'marks')
            .map(({ path }) => `${pathText(path)}@${pane.by.unit}`)
        : [],
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
