import { z } from 'zod';
import { type CopyAnswer, withCopyOf } from '#core/dashboard/copy.ts';
import { Pane } from '#core/dashboard/pane/schema.ts';
import { guardedAction, idParam, notFound, postOnly, type Signed, to } from '#server/guard.ts';
import { may } from '#server/permission.ts';
import { deskOfDashboard, findDraft, saveDraft } from '#server/store/dashboards.ts';
import type { Route } from './+types/pane-copy';

export const loader = postOnly;

const Body = z.object({ pane: Pane, to: z.uuid() });

/** Saves that come between are taken in: a copy changes nothing that they changed. */
const tries = 5;

/** Copies a pane, as its brief stands on the page, to the end of a draft: this one, or another that the person may build. */
export const action = guardedAction(
  to('build', 'the dashboard'),
  async ({ request, user }: Signed<Route.ActionArgs>): Promise<CopyAnswer> => {
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) return { refused: 'The brief is not whole. Finish it, then copy it.' };
    const { pane, to: id } = body.data;
    const desk = await deskOfDashboard(idParam(id, 'dashboard'));
    if (desk === null || !may(user, 'build', { desk })) throw notFound('dashboard');
    for (let turn = 0; turn < tries; turn += 1) {
      const draft = await findDraft(id);
      if (!draft) throw notFound('dashboard');
      const next = withCopyOf(draft.dashboard, pane);
      const saved = await saveDraft({ id, draft: next, revision: draft.revision, by: user.id });
      if (saved.ok) return { copied: { id, title: draft.dashboard.title }, before: draft.dashboard };
    }
    return { refused: 'Others keep changing that dashboard. Try again in a moment.' };
  },
);
