import type { Filter } from '#core/ask/condition/resolve.ts';
import type { PaneOffers } from '#core/change/offers.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { offersFor, paneOffers } from '#core/dashboard/flow/pane-offers.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { asksOnly, usesOf } from '#core/dashboard/pane/uses.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { runPlan } from '../records/run.ts';
import { recordsPlan } from './records-plan.ts';

/* What can be done to records that were opened from a pane, which may offer nothing itself: a number, an event, a chart. */

/** What can be done to records that were opened, and the pane of the dashboard that offers it. */
export type OffersFrom = PaneOffers & { readonly pane: string };

/** What the panes over a data set offer to do: the one that records are opened from first, then those that show a single one, then the others. */
export function offersFrom(from: Pane, dataSet: string, context: Context): OffersFrom[] {
  const isOfOne = (pane: Pane): boolean => usesOf(pane)[0]?.follows === 'picks';
  const rank = (pane: Pane): number => (pane === from ? 0 : isOfOne(pane) ? 1 : 2);
  // What only asks, and shows nothing of a record, offers itself alone.
  const over = context.dashboard.panes.filter(
    (pane) => usesOf(pane)[0]?.dataSet === dataSet && !asksOnly(pane),
  );
  return over
    .sort((one, other) => rank(one) - rank(other))
    .flatMap((pane) => {
      const all = paneOffers(pane, context);
      const offers = all && offersFor(pane, all, context);
      if (!offers) return [];
      // What adds a record is nothing that is done to one.
      const actions = offers.actions.filter(({ way }) => way !== 'insert');
      return actions.length + offers.inPlace.length > 0 ? [{ ...offers, actions, pane: pane.id }] : [];
    });
}

/** What can be done to a record: what the first of those panes offers that shows it. */
export async function recordOffers(
  from: Pane,
  { id, dataSet, key }: { readonly id: string; readonly dataSet: DataSet; readonly key: string },
  context: Context,
  signal?: AbortSignal,
): Promise<OffersFrom | null> {
  const doing = `opening ${dataSet.noun.one} ${key}`;
  for (const offers of offersFrom(from, id, context)) {
    const [other] = context.dashboard.panes.flatMap((pane) => (pane.id === offers.pane ? usesOf(pane) : []));
    if (!other || offers.pane === from.id) return offers;
    const where: Filter = { field: dataSet.key ?? '', test: { op: 'same', value: key } };
    const plan = recordsPlan(other, dataSet, { where, fields: [dataSet.key ?? ''], limit: 1 }, context);
    if ((await runPlan(plan, { doing, signal })).records.length > 0) return offers;
  }
  return null;
}
