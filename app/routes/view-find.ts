import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { findRecords } from '#server/panes/find.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-find';

/** The records of a dashboard whose names hold what is typed. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    const text = (query.get('_find') ?? '').slice(0, 200);
    return { ok: true as const, records: await findRecords(text, opened.context, request.signal) };
  },
);
