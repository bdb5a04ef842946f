import { changesAsCsv } from '#server/change/file.ts';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { deskAskedFor } from '#server/people/desks-of.ts';
import type { Route } from './+types/changes-file';

/** All that was changed from the dashboards of a desk, as a file. */
export const loader = guardedLoader(to('build'), async ({ request, user }: Signed<Route.LoaderArgs>) => {
  const find = (new URL(request.url).searchParams.get('find') ?? '').slice(0, 200);
  const desk = await deskAskedFor(user, 'build', request);
  if (!desk) throw notFound('desk');
  const lines = changesAsCsv(desk.id, find);
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    // The next lines are read once somebody takes these.
    pull: async (controller) => {
      const { value, done } = await lines.next();
      if (done) controller.close();
      else controller.enqueue(encoder.encode(value));
    },
    cancel: async () => {
      await lines.return(undefined);
    },
  });
  return new Response(body, {
    headers: {
      'Content-Type': 'text/csv; charset=utf-8; header=present',
      'Content-Disposition': 'attachment; filename="changes.csv"',
    },
  });
});
