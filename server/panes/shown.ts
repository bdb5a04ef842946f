import { setTimeout } from 'node:timers/promises';
import type { Offers } from '#core/change/offers.ts';
import type { Edition } from '#core/dashboard/edition.ts';
import { appliedTo, relationOf } from '#core/dashboard/flow/applies.ts';
import { type Context, type PickedRecords, usedDataSets } from '#core/dashboard/flow/context.ts';
import { publicDataSet, visibleCondition } from '#core/dashboard/flow/offered.ts';
import { once } from '#core/dashboard/flow/once.ts';
import { offersFor, paneOffers } from '#core/dashboard/flow/pane-offers.ts';
import type { Reads } from '#core/dashboard/flow/reads.ts';
import { readsOf, readsOfUses } from '#core/dashboard/flow/reads-of.ts';
import { vocabularyOf } from '#core/dashboard/flow/vocabulary.ts';
import { briefSentence } from '#core/dashboard/flow/words/brief.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import { type PaneResult, scopeCountId } from '#core/dashboard/pane/result.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { emptyScope, type Vocabulary } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import { allOf, type RecordsPlan } from '#core/plan/plan.ts';
import { countRecords } from '../records/run.ts';
import { checksOf } from '../store/checks.ts';
import type { OpenDashboard } from './context.ts';
import { type Delays, delaysOf } from './delays.ts';
import { withPicked } from './picked.ts';
import { runPane } from './run.ts';

/** What the page of a dashboard needs besides the panes' results. Holds no request, origin or other trace of a source. */
export interface DashboardView {
  readonly id: string;
  readonly edition: Edition;
  readonly desk: { readonly name: string; readonly slug: string; readonly zone: string };
  readonly dashboard: Dashboard;
  readonly dataSets: Readonly<Record<string, DataSet>>;
  readonly vocabulary: Vocabulary;
  readonly reads: Readonly<Record<string, Reads>>;
  /** ISO 8601: the moment that relative dates are counted from. */
  readonly now: string;
  readonly problems: readonly string[];
  /** Whether who looks may build here, and may change records and have the page sent. */
  readonly mayBuild: boolean;
  readonly mayAct: boolean;
  /** How each pane is made, in a sentence. */
  readonly sentences: Readonly<Record<string, string>>;
  /** What can be done to the records of each pane that lets something be done. */
  readonly offers: Readonly<Record<string, Offers>>;
  /** What is expected of the records of a data set and is not so, in words, by data set. */
  readonly broken: Readonly<Record<string, readonly string[]>>;
}

/** How many records the scope keeps, of how many. Exact texts. */
export interface ScopeCount {
  readonly kept: string;
  readonly all: string;
  readonly noun: DataSet['noun'];
}

/** The data set that the scope line counts: the one of its first clause, else of the first pane. */
function counted({
  dashboard,
  dataSets,
}: Pick<Context, 'dashboard' | 'dataSets'>): { id: string; dataSet: DataSet } | null {
  const id = dashboard.scope[0]?.dataSet ?? dashboard.panes.flatMap(usesOf)[0]?.dataSet;
  const dataSet = id === undefined ? undefined : dataSets.get(id);
  return id !== undefined && dataSet ? { id, dataSet } : null;
}

/** The records that the scope is counted of: those that some pane can show. */
function countedUse({ dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>): PaneUse | null {
  const main = counted({ dashboard, dataSets });
  if (!main) return null;
  const keeping = visibleCondition(dashboard, main.id, main.dataSet);
  return {
    dataSet: main.id,
    ...(keeping ? { keeping } : {}),
    follows: 'scope',
    fields: [],
    measures: [],
    shows: () => [],
    hasNumbers: false,
  };
}

/** What of a dashboard readers are sent, whoever they are and whatever they look at. */
const forReaders = once(({ dashboard, dataSets }) => {
  // Data sets that are only looked up are nobody's business here.
  const used = usedDataSets(dashboard);
  const use = countedUse({ dashboard, dataSets });
  return {
    used: new Set(used),
    panes: dashboard.panes.map((pane) => kindOf(pane).forReaders(pane)),
    offers: dashboard.panes.flatMap((pane) => {
      const offers = paneOffers(pane, { dataSets });
      return offers ? [[pane, offers] as const] : [];
    }),
    dataSets: Object.fromEntries(
      used.flatMap((id) => {
        const dataSet = dataSets.get(id);
        return dataSet ? [[id, publicDataSet(dashboard, id, dataSet)]] : [];
      }),
    ),
    reads: {
      ...readsOf({ dashboard, dataSets }),
      ...(use ? { [scopeCountId]: readsOfUses([use], { dashboard, dataSets }) } : {}),
    },
  };
});

/** `refusal`: why the person who looks may change nothing; null where they may. All but what readers have is only ever looked at by those who may build. */
export async function viewOf(
  { shown, edition, context, problems }: OpenDashboard,
  refusal: string | null,
  mayBuild = edition !== 'published',
): Promise<DashboardView> {
  const { dashboard, dataSets } = shown;
  const sent = forReaders(shown);
  return {
    id: shown.id,
    edition,
    desk: { name: shown.desk.name, slug: shown.desk.slug, zone: shown.desk.zone },
    dashboard: edition === 'draft' ? dashboard : { ...dashboard, panes: sent.panes },
    dataSets: sent.dataSets,
    sentences: Object.fromEntries(
      dashboard.panes.flatMap((each) => {
        const sentence = briefSentence(each, context);
        return sentence === null ? [] : [[each.id, sentence]];
      }),
    ),
    vocabulary: vocabularyOf(shown),
    reads: sent.reads,
    now: context.clock.now.toISOString(),
    problems,
    mayBuild,
    mayAct: refusal === null,
    offers: Object.fromEntries(
      sent.offers.flatMap(([pane, offers]) => {
        const theirs = offersFor(pane, offers, context);
        return theirs ? [[pane.id, { ...theirs, refusal }]] : [];
      }),
    ),
    broken: await brokenOf(sent.used, dataSets),
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
  const use = countedUse(context);
  const dataSet = use && context.dataSets.get(use.dataSet);
  if (!use || !dataSet) return null;
  const unset: Context = { ...context, scope: { ...emptyScope, clauses: nothingSet(context) } };
  try {
    const [kept, all] = await Promise.all(
      [context, unset].map((each) => {
        const { relation, missing } = relationOf(dataSet, each);
        if (missing) return null;
        const plan: RecordsPlan = {
          kind: 'records',
          from: relation,
          zone: each.clock.zone,
          where: allOf(appliedTo(use, dataSet, each).map(({ filter }) => filter)),
          fields: [],
          order: [],
          offset: 0,
          limit: 1,
        };
        return countRecords(plan, { doing: 'counting', signal });
      }),
    );
    return kept && all ? { kept, all, noun: dataSet.noun } : null;
  } catch {
    return null;
  }
}

const nothingSet = ({ dashboard }: Context): Record<string, null> =>
  Object.fromEntries(dashboard.scope.map(({ name }) => [name, null]));

/** What is there already, or still to come. */
export type Soon<T> = T | Promise<T>;

export interface FirstResults {
  readonly panes: Readonly<Record<string, Soon<PaneResult>>>;
  readonly count: Soon<ScopeCount | null>;
  /** What is known of the records that are picked. */
  readonly picked: Soon<PickedRecords | null>;
  /** Sources that do not answer, once the panes have asked them, and changes that are still to come. */
  readonly delays: Soon<Delays>;
}

/**
 * The page waits this long for what it shows, in milliseconds, which nobody feels. A place that waits has another height than what comes
 * into it: where that comes a moment later, the whole page jumps, and a click meets what stood elsewhere.
 */
const soonMs = 100;

/** What a promise comes to where that is before another ends, or else the promise itself; in a list, since a promise alone would be waited for. */
const unlessLate = <T>(coming: Promise<T>, end: Promise<unknown>): Promise<readonly [Soon<T>]> => {
  const itself = (): readonly [Soon<T>] => [coming];
  return Promise.race([coming.then((value): readonly [Soon<T>] => [value], itself), end.then(itself)]);
};

/** Starts every pane at once; none waits for another. What is answered soon is there, the rest is still to come. */
export async function firstResults(context: Context, signal: AbortSignal): Promise<FirstResults> {
  const known = withPicked(context, signal);
  const coming = context.dashboard.panes.map(
    (pane) => [pane.id, known.then((picked) => runPane({ pane, context: picked, signal }))] as const,
  );
  const end = setTimeout(soonMs, undefined, { ref: false });
  const soon = <T>(each: Promise<T>) => unlessLate(each, end);
  const [panes, [delays], [count], [picked]] = await Promise.all([
    Promise.all(coming.map(async ([id, result]) => [id, ...(await soon(result))] as const)),
    soon(
      Promise.all(coming.map(([, result]) => result))
        .then(() => delaysOf(context))
        .catch((): Delays => ({ outages: [], changes: [] })),
    ),
    soon(countScope(context, signal)),
    soon(known.then((all) => all.picked ?? null)),
  ]);
  return { panes: Object.fromEntries(panes), delays, count, picked };
}
