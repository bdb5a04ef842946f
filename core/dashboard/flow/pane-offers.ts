import { offersOf, type PaneOffers } from '#core/change/offers.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Context } from './context.ts';

/** What a pane offers to do to its records, of the fields that it shows; null where that is nothing. */
export function paneOffers(pane: Pane, { dataSets }: Pick<Context, 'dataSets'>): PaneOffers | null {
  const [use] = usesOf(pane);
  const dataSet = use && dataSets.get(use.dataSet);
  if (!use || !dataSet) return null;
  const found = offersOf(use, dataSet, dataSets);
  const shown = use.shows(dataSet);
  const offers = { ...found, inPlace: found.inPlace.filter((field) => shown.includes(field)) };
  return offers.actions.length + offers.inPlace.length > 0 ? offers : null;
}
