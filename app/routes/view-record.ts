import { problemOf } from '#core/value/problem/problem.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { openRecord } from '#server/panes/opened-record.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-record';

/** One record of a pane, with what refers to it. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    try {
      const record = await openRecord(
        { pane: query.get('_pane') ?? '', key: (query.get('_key') ?? '').slice(0, 2000) },
        opened.context,
        request.signal,
      );
      return { ok: true as const, record };
    } catch (thrown) {
      return { ok: false as const, problem: problemOf(thrown, 'opening the record') };
    }
  },
);
