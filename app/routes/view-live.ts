import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { followersOf } from '#core/lineage/reach.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { changeStream } from '#server/live/changes.ts';
import { openForView } from '#server/panes/view-request.ts';
import { personOf, sessionOf } from '#server/store/people.ts';
import type { Route } from './+types/view-live';

/** Tells an open page which of its data sets have new records, as server-sent events. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened } = await openForView(params.id, request, user);
    const token = context.token ?? '';
    return changeStream(
      followersOf(usedDataSets(opened.context.dashboard), opened.context.dataSets),
      {
        userId: user.id,
        session: sessionOf(token),
        isSignedIn: async () => (await personOf(token)) !== null,
      },
      request.signal,
    );
  },
);
