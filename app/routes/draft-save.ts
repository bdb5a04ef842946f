import { z } from 'zod';
import { dashboardChanges, sameJson } from '#core/dashboard/compare.ts';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { usedDataSets } from '#core/dashboard/flow/context.ts';
import { mergeDashboards } from '#core/dashboard/merge.ts';
import { inStep } from '#core/dashboard/pane/in-step.ts';
import { Dashboard } from '#core/dashboard/schema.ts';
import { guardedSave, refuseEdit, type SaveAnswer, saveAnswer } from '#server/edit.ts';
import { idParam, notFound, postOnly, type Signed, to } from '#server/guard.ts';
import { findDraft, lastSave, saveDraft } from '#server/store/dashboards.ts';
import { findDataSets } from '#server/store/data-sets.ts';
import type { Route } from './+types/draft-save';

export const loader = postOnly;

const Body = z.object({
  draft: Dashboard,
  /** What the change was made to. */
  base: Dashboard,
  /** It is saved over whatever somebody else made of it meanwhile. */
  over: z.literal(true).optional(),
});

/** Somebody who saves at the very same moment is waited for this often. */
const tries = 3;

/**
 * Saves what somebody did to a draft. What others did to other parts of it meanwhile stays, and is told; where both did something else to
 * the same part, nothing is saved, and that is told.
 */
export const action = guardedSave(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<SaveAnswer> => {
    const id = idParam(params.id, 'dashboard');
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) return refuseEdit(body.error);
    const { draft, base, over } = body.data;
    for (let turn = 0; turn < tries; turn += 1) {
      const now = await findDraft(id);
      if (!now) throw notFound('dashboard');
      // As the page has it, which knows of lists that are in step what they follow.
      const theirs = inStep(now.dashboard);
      const changes = over ? [] : dashboardChanges(base, theirs);
      const next = over || sameJson(base, theirs) ? draft : mergeDashboards(base, draft, theirs);
      if (!next) return saveAnswer(await lastSave(id), changes);
      const circles = await circlesIn(next);
      if (circles.length > 0) return { state: 'refused', why: circles };
      const saved = await saveDraft({ id, draft: next, revision: now.revision, by: user.id });
      if (saved.ok)
        return {
          state: 'saved',
          revision: saved.revision,
          ...(changes.length > 0 ? { meanwhile: changes } : {}),
        };
    }
    return {
      state: 'refused',
      why: ['others save it so often just now that there was no moment for this; try again'],
    };
  },
);

/** Why panes of a draft would wait for each other without end. */
async function circlesIn(draft: Dashboard): Promise<string[]> {
  const dataSets = await findDataSets(usedDataSets(draft));
  return checkFlow(draft, dataSets)
    .filter(({ panes }) => panes.length > 1)
    .map(({ why }) => why);
}
