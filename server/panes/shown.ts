import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type Context, vocabularyOf } from '#core/flow/context.ts';
import { type Reads, readsOf } from '#core/flow/reads.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import { ask, keyAndTitle } from '#core/pane/ask.ts';
import { type PaneResult, scopeCountId } from '#core/pane/result.ts';
import type { Pane, TablePane } from '#core/pane/schema.ts';
import type { Vocabulary } from '#core/scope/state.ts';
import { countRecords } from '../records.ts';
import { checksOf } from '../store/checks.ts';
import type { Opened } from './context.ts';
import { runPane } from './run.ts';

/** What the page of a dashboard needs besides the panes' results. Holds no request, origin or other trace of a source. */
export interface DashboardView {
  readonly id: string;
  readonly draft: boolean;
  readonly desk: { readonly name: string; readonly slug: string; readonly zone: string };
  readonly dashboard: Dashboard;
  readonly dataSets: Readonly<Record<string, DataSet>>;
  readonly vocabulary: Vocabulary;
  readonly reads: Readonly<Record<string, Reads>>;
  /** ISO 8601: the moment that relative dates are counted from. */
  readonly now: string;
  readonly problems: readonly string[];
  /** What is expected of the records of a data set and is not so, in words, by data set. */
  readonly broken: Readonly<Record<string, readonly string[]>>;
}

/** How many records the scope keeps, of how many. Exact texts. */
export interface ScopeCount {
  readonly kept: string;
  readonly all: string;
  readonly noun: string;
}

/** A definition without where its records come from. */
const publicDataSet = ({ steps: _, start: __, checks: ___, ...dataSet }: DataSet): DataSet => ({
  ...dataSet,
  request: { kind: 'table', schema: '-', table: '-', columns: [], lookUps: [] },
  inputs: dataSet.inputs.map(({ sample: _, refers: __, allowed: ___, ...input }) => input),
  fields: dataSet.fields.map(({ origin: _, refers: __, ...field }) => field),
});

/** A pane without the name of what it waits for; that it waits is no secret. */
const publicPane = (pane: Pane): Pane =>
  pane.waitsFor === undefined ? pane : { ...pane, waitsFor: 'record' };

/** The data set that the scope line counts: the one of its first clause, else of the first pane. */
function counted({
  dashboard,
  dataSets,
}: Pick<Context, 'dashboard' | 'dataSets'>): { id: string; dataSet: DataSet } | null {
  const id = dashboard.scope[0]?.dataSet ?? dashboard.panes[0]?.dataSet;
  const dataSet = id === undefined ? undefined : dataSets.get(id);
  return id !== undefined && dataSet ? { id, dataSet } : null;
}

/** A table of nothing but the scope: what the count is taken of. */
function countPane({ dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>): TablePane | null {
  const main = counted({ dashboard, dataSets });
  const first = main?.dataSet.fields[0];
  if (!main || !first) return null;
  const [field = first.name] = keyAndTitle(main.dataSet);
  return {
    kind: 'table',
    id: scopeCountId,
    title: '',
    dataSet: main.id,
    columns: [{ field }],
    order: [],
    pageSize: 1,
    place: { x: 0, y: 0, w: 1, h: 1 },
  };
}

export async function viewOf({ shown, draft, context, problems }: Opened): Promise<DashboardView> {
  const { dashboard, dataSets } = shown;
  const pane = countPane(context);
  // Data sets that are only looked up are nobody's business here.
  const used = new Set([...dashboard.panes, ...dashboard.scope].map(({ dataSet }) => dataSet));
  const withCount = pane ? { ...dashboard, panes: [...dashboard.panes, pane] } : dashboard;
  return {
    id: shown.id,
    draft: draft !== null,
    desk: { name: shown.desk.name, slug: shown.desk.slug, zone: shown.desk.zone },
    dashboard: draft ? dashboard : { ...dashboard, panes: dashboard.panes.map(publicPane) },
    dataSets: Object.fromEntries(
      [...dataSets].filter(([id]) => used.has(id)).map(([id, dataSet]) => [id, publicDataSet(dataSet)]),
    ),
    vocabulary: vocabularyOf({ dashboard, dataSets }),
    reads: readsOf({ dashboard: withCount, dataSets }),
    now: context.clock.now.toISOString(),
    problems,
    broken: await brokenOf(used, dataSets),
  };
}

/** The checks that are not met of each data set shown, those of what it is made of among them. One question for all. */
async function brokenOf(
  used: ReadonlySet<string>,
  dataSets: ReadonlyMap<string, DataSet>,
): Promise<Record<string, string[]>> {
  const results = (await checksOf([...dataSets.keys()])).filter(({ state }) => state === 'broken');
  if (results.length === 0) return {};
  return Object.fromEntries(
    [...used].map((id) => {
      const all = comesFrom(id, dataSets);
      return [
        id,
        results.filter(({ dataSetId }) => all.has(dataSetId)).map(({ name, found }) => `${name}: ${found}`),
      ];
    }),
  );
}

/** Counts what the scope keeps. Null where there is nothing to count or it failed: the sentence then goes without. */
export async function countScope(context: Context, signal?: AbortSignal): Promise<ScopeCount | null> {
  const pane = countPane(context);
  const dataSet = pane && context.dataSets.get(pane.dataSet);
  if (!pane || !dataSet) return null;
  try {
    const asking = { doing: 'counting', signal };
    const [kept, all] = [
      context,
      { ...context, scope: { clauses: nothingSet(context), own: [], focus: [], tables: {} } },
    ].map((each) => ask(pane, each));
    if (kept?.state !== 'table' || all?.state !== 'table') return null;
    const [some, every] = await Promise.all([
      countRecords(kept.plan, asking),
      countRecords(all.plan, asking),
    ]);
    return { kept: some, all: every, noun: dataSet.noun.many };
  } catch {
    return null;
  }
}

const nothingSet = ({ dashboard }: Context): Record<string, null> =>
  Object.fromEntries(dashboard.scope.map(({ name }) => [name, null]));

export interface FirstResults {
  readonly panes: Record<string, Promise<PaneResult>>;
  readonly count: Promise<ScopeCount | null>;
}

/** Starts every pane at once; none waits for another. */
export function firstResults(context: Context, signal: AbortSignal): FirstResults {
  return {
    panes: Object.fromEntries(
      context.dashboard.panes.map((pane) => [pane.id, runPane({ pane, context, signal })]),
    ),
    count: countScope(context, signal),
  };
}
