import { z } from 'zod';
import { AskedFollowUp, type FollowUpAnswer, SeenFollowUp } from '#core/change/follow-up.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { filesIn, followUpFor, sayOfRecord, seeFollowUp } from '#server/change/follow-up.ts';
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

/** What was sent: JSON, or a form of JSON and files. */
async function bodyOf(request: Request): Promise<{ said: unknown; form: FormData | null }> {
  try {
    if (!request.headers.get('content-type')?.startsWith('multipart/form-data'))
      return { said: await request.json(), form: null };
    const form = await request.formData();
    return { said: JSON.parse(String(form.get('said'))), form };
  } catch {
    return { said: null, form: null };
  }
}

/** Notes what somebody says of a record, and how it stands since; or that they have seen what was said. Null where that went well. */
export const action = guardedAction(
  to('act', 'the dashboard'),
  async ({
    params,
    request,
    user,
    context,
  }: Signed<Route.ActionArgs>): Promise<{ problem: Problem | null }> => {
    const doing = 'following up on the record';
    const { said, form } = await bodyOf(request);
    const seen = SeenFollowUp.safeParse(said);
    const asked = AskedFollowUp.safeParse(said);
    if (!asked.success && !seen.success) {
      const why = asked.error.issues[0]?.message ?? z.prettifyError(asked.error);
      return { problem: { code: 'bad-request', doing, why, mend: 'Correct it and send it again.' } };
    }
    try {
      const looked = await openForView(params.id, request, user, context);
      const problem = onlyLookedAt(looked, doing);
      if (problem) return { problem };
      const { shown, context: shownIn } = looked.opened;
      const within = { deskId: shown.desk.id, dashboardId: shown.id, context: shownIn, user };
      if (seen.success) await seeFollowUp(seen.data, within, request.signal);
      else if (asked.success)
        await sayOfRecord(asked.data, form ? await filesIn(form) : [], within, request.signal);
      return { problem: null };
    } catch (thrown) {
      if (thrown instanceof Response) throw thrown;
      return { problem: problemOf(thrown, doing) };
    }
  },
);
