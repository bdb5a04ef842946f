import { problemOf } from '#core/value/problem/problem.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { clauseValues, fieldValues } from '#server/panes/values.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-values';

/** What a clause can be set to, or the values of a field that a reader may narrow by, with counts. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    try {
      const find = (query.get('_find') ?? '').slice(0, 200);
      const path = query.get('_field');
      const found =
        path === null
          ? await clauseValues(query.get('_clause') ?? '', find, opened.context, request.signal)
          : await fieldValues(path.slice(0, 500), find, opened.context, request.signal);
      return { ok: true as const, found };
    } catch (thrown) {
      return { ok: false as const, problem: problemOf(thrown, 'finding values') };
    }
  },
);
