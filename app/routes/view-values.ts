import { problemOf } from '#core/problem/problem.ts';
import { guardedLoader, type Signed } from '#server/guard.ts';
import { clauseValues } from '#server/panes/values.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-values';

/** What a clause can be set to, with counts. */
export const loader = guardedLoader('read', async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
  const { opened, params: asked } = await openForView(params.id, request, user);
  try {
    const found = await clauseValues(
      asked.get('_clause') ?? '',
      (asked.get('_find') ?? '').slice(0, 200),
      opened.context,
      request.signal,
    );
    return { ok: true as const, found };
  } catch (thrown) {
    return { ok: false as const, problem: problemOf(thrown, 'finding values') };
  }
});
