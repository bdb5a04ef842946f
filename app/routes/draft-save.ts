import { z } from 'zod';
import { dashboardChanges } from '#core/dashboard/compare.ts';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { Dashboard } from '#core/dashboard/schema.ts';
import { refuseEdit, type SaveAnswer, saveAnswer } from '#server/edit.ts';
import { guardedAction, idParam, notFound, postOnly, type Signed, to } from '#server/guard.ts';
import { findDraft, saveDraft } from '#server/store/dashboards.ts';
import { findDataSets } from '#server/store/data-sets.ts';
import type { Route } from './+types/draft-save';

export const loader = postOnly;

const Body = z.object({ draft: Dashboard, base: Dashboard, revision: z.int() });

/** Saves a draft over the revision it was started from; a save that came between is told, with what it changed. */
export const action = guardedAction(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<SaveAnswer> => {
    const id = idParam(params.id, 'dashboard');
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) return refuseEdit(body.error);
    const { draft, base, revision } = body.data;
    const dataSets = await findDataSets(usedDataSets(draft));
    const circles = checkFlow(draft, dataSets).filter(({ panes }) => panes.length > 1);
    if (circles.length > 0) return { state: 'refused', why: circles.map(({ why }) => why) };
    const saved = await saveDraft({ id, draft, revision, by: user.id });
    if (saved.ok) return saveAnswer(saved, []);
    const now = await findDraft(id);
    if (!now) throw notFound('dashboard');
    return saveAnswer(saved, dashboardChanges(base, now.dashboard));
  },
);
