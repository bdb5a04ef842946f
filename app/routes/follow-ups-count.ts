import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { findDesk } from '#server/store/desks.ts';
import { countFor } from '#server/store/follow-ups.ts';
import type { Route } from './+types/follow-ups-count';

/** How many follow-ups of a desk somebody has to look at. */
export const loader = guardedLoader(
  to('read', 'the desk'),
  async ({ params, user }: Signed<Route.LoaderArgs>): Promise<{ count: number }> => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    return { count: await countFor(desk.id, user.id) };
  },
);
