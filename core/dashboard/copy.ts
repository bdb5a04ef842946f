import { freeName } from '#core/value/field/free-name.ts';
import type { Pane } from './pane/schema.ts';
import { freePlace } from './pane/suggest.ts';
import type { Dashboard } from './schema.ts';

/** A dashboard with a copy of a pane, in the first room there is; what the pane was in step with stays where it was. */
export function withCopyOf(dashboard: Dashboard, pane: Pane): Dashboard {
  const taken = new Set(dashboard.panes.map(({ id }) => id));
  const copy = {
    ...pane,
    id: freeName(pane.id, (id) => taken.has(id), '-'),
    place: freePlace(dashboard.panes, pane.place),
  };
  if ('inStepWith' in copy && !taken.has(copy.inStepWith ?? '')) delete copy.inStepWith;
  return { ...dashboard, panes: [...dashboard.panes, copy] };
}

/** Where a pane was copied to, and the draft that this was done to; or why it was not. */
export type CopyAnswer =
  | { readonly copied: { readonly id: string; readonly title: string }; readonly before: Dashboard }
  | { readonly refused: string };
