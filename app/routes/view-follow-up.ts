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
    const { opened, params: query } = await openForView(params.id, request, user, context);
    try {
      const followUp: FollowUpAnswer = await followUpFor(
        { pane: query.get('_pane') ?? '', key: (query.get('_key') ?? '').slice(0, 2000) },
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
async function bodyOf(request: Request): Promise<{ json: unknown; form: FormData | null }> {
  try {
    if (!request.headers.get('content-type')?.startsWith('multipart/form-data'))
      return { json: await request.json(), form: null };
    const form = await request.formData();
    return { json: JSON.parse(String(form.get('said'))), form };
  } catch {
    return { json: null, form: null };
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
    const { json, form } = await bodyOf(request);
    const seen = SeenFollowUp.safeParse(json);
    const note = AskedFollowUp.safeParse(json);
    if (!note.success && !seen.success) {
      const why = note.error.issues[0]?.message ?? z.prettifyError(note.error);
      return { problem: { code: 'bad-request', doing, why, mend: 'Correct it and send it again.' } };
    }
    try {
      const looked = await openForView(params.id, request, user, context);
      const problem = onlyLookedAt(looked, doing);
      if (problem) return { problem };
      const { shown, context: shownIn } = looked.opened;
      const within = { deskId: shown.desk.id, dashboardId: shown.id, context: shownIn, user };
      if (seen.success) await seeFollowUp(seen.data, within, request.signal);
      else if (note.success)
        await sayOfRecord(note.data, form ? await filesIn(form) : [], within, request.signal);
      return { problem: null };
    } catch (thrown) {
      if (thrown instanceof Response) throw thrown;
      return { problem: problemOf(thrown, doing) };
    }
  },
);
