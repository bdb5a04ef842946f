import { z } from 'zod';
import { Pane } from '#core/dashboard/pane/schema.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import { guardedAction, permit, postOnly, type Signed, to } from '#server/guard.ts';
import { contextOf } from '#server/panes/context.ts';
import { withPicked } from '#server/panes/picked.ts';
import { runPane } from '#server/panes/run.ts';
import { askerOf } from '#server/people/asker.ts';
import { findDraft } from '#server/store/dashboards.ts';
import { findDataSets } from '#server/store/data-sets.ts';
import type { Route } from './+types/preview';

export const loader = postOnly;

const Body = z.object({ dashboard: z.uuid(), pane: Pane, search: z.string().max(20_000) });

/** What a pane would show with this brief, in the draft it belongs to. Nothing is saved. */
export const action = guardedAction(to('build'), async ({ request, user }: Signed<Route.ActionArgs>) => {
  const body = Body.safeParse(await request.json().catch(() => null));
  const doing = 'trying the brief';
  if (!body.success)
    return {
      state: 'failed' as const,
      problem: {
        code: 'bad-request' as const,
        doing,
        why: z.prettifyError(body.error),
        mend: 'Choose something else for that slot.',
      },
    };
  const { pane, search, dashboard } = body.data;
  await permit(user, to('build', 'the dashboard'), { id: dashboard });
  const draft = await findDraft(dashboard);
  if (!draft)
    return {
      state: 'failed' as const,
      problem: {
        code: 'missing' as const,
        doing,
        why: 'the dashboard no longer exists',
        mend: 'Go back to the workroom.',
      },
    };
  const changed = {
    ...draft.dashboard,
    panes: [...draft.dashboard.panes.filter(({ id }) => id !== pane.id), pane],
  };
  const dataSets = new Map([
    ...draft.dataSets,
    ...(await findDataSets(usesOf(pane).map(({ dataSet }) => dataSet))),
  ]);
  const { context } = contextOf(
    { dashboard: changed, dataSets, desk: draft.desk },
    new URLSearchParams(search),
    new Date(),
    askerOf(user),
  );
  const previewed = context.dashboard.panes.find(({ id }) => id === pane.id) ?? pane;
  return runPane({
    pane: previewed,
    context: await withPicked(context, request.signal),
    signal: request.signal,
  });
});
