import { problemOf } from '#core/value/problem/problem.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { behindViewOf, cellOf, openBehind } from '#server/panes/drill.ts';
import { withPicked } from '#server/panes/picked.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-behind';

/** The records behind a number. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    const doing = 'opening what is behind the number';
    const cell = cellOf(query);
    if (!cell)
      return {
        ok: false as const,
        problem: {
          code: 'bad-request' as const,
          doing,
          why: 'the address does not say which number',
          mend: 'Close this and choose again.',
        },
      };
    const view = behindViewOf(query);
    try {
      return {
        ok: true as const,
        behind: await openBehind(
          cell,
          view,
          await withPicked(opened.context, request.signal),
          request.signal,
        ),
      };
    } catch (thrown) {
      return { ok: false as const, problem: problemOf(thrown, doing) };
    }
  },
);
