import { z } from 'zod';
import { AskedFollowUp, type FollowUpAnswer } from '#core/change/follow-up.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { followUpFor, sayOfRecord } from '#server/change/follow-up.ts';
import { guardedAction, guardedLoader, type Signed, to } from '#server/guard.ts';
import { onlyLookedAt, openForView } from '#server/panes/view-request.ts';
import type { Route } from './+types/view-follow-up';

/** How a record of a pane stands, and what was said of it. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: asked } = await openForView(params.id, request, user, context);
    try {
      const followUp: FollowUpAnswer = await followUpFor(
        { pane: asked.get('_pane') ?? '', key: (asked.get('_key') ?? '').slice(0, 2000) },
        { deskId: opened.shown.desk.id, context: opened.context, user },
        request.signal,
      );
      return { ok: true as const, followUp };
    } catch (thrown) {
      return { ok: false as const, problem: problemOf(thrown, 'reading what was said of the record') };
    }
  },
);

/** Notes what somebody says of a record, and how it stands since. Null where that went well. */
export const action = guardedAction(
  to('act', 'the dashboard'),
  async ({
    params,
    request,
    user,
    context,
  }: Signed<Route.ActionArgs>): Promise<{ problem: Problem | null }> => {
    const doing = 'following up on the record';
    const asked = AskedFollowUp.safeParse(await request.json().catch(() => null));
    if (!asked.success) {
      const why = asked.error.issues[0]?.message ?? z.prettifyError(asked.error);
      return { problem: { code: 'bad-request', doing, why, mend: 'Correct it and send it again.' } };
    }
    try {
      const looked = await openForView(params.id, request, user, context);
      const problem = onlyLookedAt(looked, doing);
      if (problem) return { problem };
      const { shown, context: shownIn } = looked.opened;
      await sayOfRecord(
        asked.data,
        { deskId: shown.desk.id, dashboardId: shown.id, context: shownIn, user },
        request.signal,
      );
      return { problem: null };
    } catch (thrown) {
      if (thrown instanceof Response) throw thrown;
      return { problem: problemOf(thrown, doing) };
    }
  },
);
