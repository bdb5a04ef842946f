import { guardedLoader, type Signed } from '#server/guard.ts';
import { changeStream } from '#server/live/changes.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-live';

/** Tells an open page which of its data sets have new records, as server-sent events. */
export const loader = guardedLoader('read', async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
  const { opened } = await openForView(params.id, request, user);
  return changeStream(new Set(opened.context.dataSets.keys()), request.signal);
});
