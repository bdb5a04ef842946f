import type { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { needOf, offerOf } from './reach.ts';
import { withArticle } from './words/waiting.ts';

/** Why a dashboard cannot work as drawn, naming the panes. */
export interface FlowProblem {
  readonly panes: readonly string[];
  readonly why: string;
}

/** What a pane must be given before it can show anything, and what can be picked in it, as meanings; null where it cannot be known. */
function needsAndOffers(
  pane: Pane,
  dataSets: ReadonlyMap<string, DataSet>,
): { needs: string[]; offers: string[] } | null {
  const needs: string[] = [];
  const offers: string[] = [];
  for (const use of usesOf(pane)) {
    const dataSet = dataSets.get(use.dataSet);
    if (!dataSet) return null;
    const need = needOf(use, dataSet);
    // A case can be typed as well.
    if (need !== null && !use.about) needs.push(need);
    offers.push(...offerOf(use, dataSet));
  }
  return { needs, offers };
}

/**
 * Finds panes that no reader could ever fill: those that wait for a pick which nothing offers, and those that wait for
 * each other. A pane is reachable when it waits for nothing, or when a reachable pane offers what it waits for.
 */
export function checkFlow(dashboard: Dashboard, dataSets: ReadonlyMap<string, DataSet>): FlowProblem[] {
  const known = dashboard.panes.flatMap((pane) => {
    const found = needsAndOffers(pane, dataSets);
    return found ? [{ pane, ...found }] : [];
  });
  const reachable = new Set<Pane>();
  const given = new Set<string>();
  for (let grew = true; grew; ) {
    const more = known.filter(
      ({ pane, needs }) => !reachable.has(pane) && needs.every((need) => given.has(need)),
    );
    for (const { pane, offers } of more) {
      reachable.add(pane);
      for (const offer of offers) given.add(offer);
    }
    grew = more.length > 0;
  }
  const stuck = known.flatMap(({ pane, needs, offers }) =>
    reachable.has(pane) ? [] : [{ pane, need: needs.find((each) => !given.has(each)) ?? null, offers }],
  );
  const name = (pane: Pane): string => pane.title || 'untitled';
  return stuck.flatMap(({ pane, need }): FlowProblem[] => {
    // A pane that waits for the same gives nothing first.
    const givers = stuck.filter((each) => need !== null && each.need !== need && each.offers.includes(need));
    if (givers.length === 0) {
      const noun = nounOf(need, dataSets);
      return [
        {
          panes: [pane.id],
          why: `“${name(pane)}” waits for ${withArticle(noun)}, but no table on this dashboard lets a reader choose one: add a table of ${withArticle(noun)}, or of records that refer to one.`,
        },
      ];
    }
    const circle = givers.map((each) => `“${name(each.pane)}”`).join(' and ');
    return [
      {
        panes: [pane.id, ...givers.map((each) => each.pane.id)],
        why: `“${name(pane)}” and ${circle} wait for each other, so neither could ever be filled.`,
      },
    ];
  });
}

/** What could be filled no more if a pane went, beside what cannot be filled as it is: a sentence each. */
export function lostWith(
  pane: string,
  dashboard: Dashboard,
  dataSets: ReadonlyMap<string, DataSet>,
): string[] {
  const already = new Set(checkFlow(dashboard, dataSets).map(({ why }) => why));
  const without = { ...dashboard, panes: dashboard.panes.filter(({ id }) => id !== pane) };
  return checkFlow(without, dataSets).flatMap(({ why }) => (already.has(why) ? [] : [why]));
}

/** The titles of the panes in which a reader can choose what another waits for, for that to be said. */
export function giversOf(
  meaning: string,
  dashboard: Dashboard,
  dataSets: ReadonlyMap<string, DataSet>,
): string[] {
  return dashboard.panes.flatMap((pane) => {
    const found = needsAndOffers(pane, dataSets);
    return found && !found.needs.includes(meaning) && found.offers.includes(meaning)
      ? [pane.title || 'Untitled']
      : [];
  });
}

/** What a record of a meaning is called: the noun of the data set that it is the key of. */
export function nounOf(meaning: string | null, dataSets: ReadonlyMap<string, DataSet>): string {
  for (const dataSet of dataSets.values()) {
    const key = dataSet.fields.find(({ name }) => name === dataSet.key);
    if (key && (key.refers ?? key.origin) === meaning) return dataSet.noun.one;
  }
  return 'record';
}
