import { isFor, offersOf, type PaneOffers } from '#core/change/offers.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Context } from './context.ts';

const unlessNothing = (offers: PaneOffers): PaneOffers | null =>
  offers.actions.length + offers.inPlace.length > 0 ? offers : null;

/** What a pane offers to do to its records, of the fields that it shows, whoever looks; null where that is nothing. */
export function paneOffers(pane: Pane, { dataSets }: Pick<Context, 'dataSets'>): PaneOffers | null {
  const [use] = usesOf(pane);
  const dataSet = use && dataSets.get(use.dataSet);
  if (!use || !dataSet) return null;
  const found = offersOf(use, dataSet, dataSets);
  const shown = use.shows(dataSet);
  return unlessNothing({ ...found, inPlace: found.inPlace.filter((field) => shown.includes(field)) });
}

/** What of that is for somebody; null where that is nothing. */
export function offersFor(
  pane: Pane,
  offers: PaneOffers,
  { dataSets, person }: Pick<Context, 'dataSets' | 'person'>,
): PaneOffers | null {
  const [use] = usesOf(pane);
  const known = (use && dataSets.get(use.dataSet)?.changes?.actions) ?? [];
  const actions = offers.actions.filter(({ name }) =>
    isFor(known.find((action) => action.name === name) ?? {}, person),
  );
  return unlessNothing({ ...offers, actions });
}
