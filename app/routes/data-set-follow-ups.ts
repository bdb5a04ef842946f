import { z } from 'zod';
import { showFollowUps } from '#server/change/show-follow-ups.ts';
import { guardedSave, refuseEdit } from '#server/edit.ts';
import { idParam, postOnly, type Signed, to } from '#server/guard.ts';
import type { Route } from './+types/data-set-follow-ups';

export const loader = postOnly;

const Body = z.object({ revision: z.int() });

/** Adds what people noted of its records to the fields. */
export const action = guardedSave(
  to('build'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const id = idParam(params.id, 'data set');
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) return refuseEdit(body.error);
    const answer = await showFollowUps({ id, ...body.data }, user);
    return answer.state === 'saved' ? { ...answer, to: `/workroom/data-sets/${id}/steps` } : answer;
  },
);
