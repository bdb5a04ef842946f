import { problemOf } from '#core/problem/problem.ts';
import { guardedLoader, type Signed } from '#server/guard.ts';
import { CellAddress, openBehind } from '#server/panes/drill.ts';
import { openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-behind';

function parsed(text: string | null): unknown {
  try {
    return JSON.parse(text ?? '');
  } catch {
    return null;
  }
}

/** The records behind a number. */
export const loader = guardedLoader('read', async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
  const { opened, params: asked } = await openForView(params.id, request, user);
  const doing = 'opening what is behind the number';
  const cell = CellAddress.safeParse(parsed(asked.get('_cell')));
  if (!cell.success)
    return {
      ok: false as const,
      problem: {
        code: 'bad-request' as const,
        doing,
        why: 'the address does not say which number',
        mend: 'Close this and choose again.',
      },
    };
  const page = Math.max(1, Math.trunc(Number(asked.get('_page'))) || 1);
  try {
    return { ok: true as const, behind: await openBehind(cell.data, page, opened.context, request.signal) };
  } catch (thrown) {
    return { ok: false as const, problem: problemOf(thrown, doing) };
  }
});
