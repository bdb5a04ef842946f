import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { followersOf } from '#core/lineage/reach.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { changeStream, type Watched } from '#server/live/changes.ts';
import { openWatched } from '#server/panes/view-request.ts';
import { personOf, sessionOf } from '#server/store/people.ts';
import type { Route } from './+types/live';

/** As many dashboards as one browser is told of. */
const mostWatched = 50;

/** Tells the open pages of a browser which of their data sets have new records, as server-sent events. */
export const loader = guardedLoader(
  to('read'),
  async ({ request, user, context }: Signed<Route.LoaderArgs>) => {
    const names = new URL(request.url).searchParams.getAll('watch').slice(0, mostWatched);
    const watched = await Promise.all(
      [...new Set(names)].map(async (name): Promise<Watched | null> => {
        const opened = await openWatched(name, user);
        if (!opened) return null;
        const { dashboard, dataSets } = opened.context;
        return { name, followers: followersOf(usedDataSets(dashboard), dataSets) };
      }),
    );
    const known = watched.filter((each) => each !== null);
    // So the browser does not ask again (HTML, 9.2).
    if (known.length === 0) return new Response(null, { status: 204 });
    const token = context.token ?? '';
    return changeStream(
      known,
      {
        userId: user.id,
        session: sessionOf(token),
        isSignedIn: async () => (await personOf(token)) !== null,
      },
      request.signal,
    );
  },
);
