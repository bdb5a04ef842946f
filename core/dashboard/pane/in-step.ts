import { recordsOf } from './records-slot.ts';
import type { Pane } from './schema.ts';
import { usesOf } from './uses.ts';

/* Lists of the same records that are in step: one follows the other's order, page and search. */

/** What a list is in step by: a pane that says how many records it has to a page, and in which order. */
type Listing = Extract<Pane, { readonly order: readonly object[]; readonly pageSize: number }>;
const isListing = (pane: Pane): pane is Listing => 'pageSize' in pane && Array.isArray(pane.order);

/** The pane whose view a pane has: its own, or that of the list that it is in step with. */
export const viewedAs = (pane: Pane): string =>
  ('inStepWith' in pane ? pane.inStepWith : undefined) ?? pane.id;

/** The lists that a pane can be in step with: those of its own data set, which follow none themselves and have no groups. */
export const leadersFor = (pane: Pane, panes: readonly Pane[]): Pane[] =>
  panes.filter(
    (each) =>
      each.id !== pane.id &&
      isListing(each) &&
      !('groups' in each && each.groups !== undefined) &&
      viewedAs(each) === each.id &&
      usesOf(each)[0]?.dataSet === usesOf(pane)[0]?.dataSet,
  );

/** A pane that is in step, with all that it has of the other: which records, in which order, how many to a page, and what is searched. */
function following(pane: Pane, panes: readonly Pane[]): Pane {
  if (!('inStepWith' in pane) || pane.inStepWith === undefined) return pane;
  const leader = leadersFor(pane, panes).find(({ id }) => id === pane.inStepWith);
  const use = leader && usesOf(leader)[0];
  const { inStepWith: _, ...alone } = pane;
  if (!leader || !use || !isListing(leader)) return alone;
  return {
    ...pane,
    ...recordsOf(use),
    order: leader.order,
    pageSize: leader.pageSize,
    searched: [...(use.lists ?? [])],
  };
}

interface Panes {
  readonly panes: readonly Pane[];
}

const known = new WeakMap<Panes, Panes>();

/** A dashboard whose panes that are in step have what they follow. The same for the same one, since much is worked out once for each. */
export function inStep<D extends Panes>(dashboard: D): D {
  if (dashboard.panes.every((pane) => viewedAs(pane) === pane.id)) return dashboard;
  const found = (known.get(dashboard) as D | undefined) ?? {
    ...dashboard,
    panes: dashboard.panes.map((pane) => following(pane, dashboard.panes)),
  };
  known.set(dashboard, found);
  // What is in step already is so as it stands.
  known.set(found, found);
  return found;
}
