import { guardedAction, idParam, postOnly, type Signed, to } from '#server/guard.ts';
import { noteGone, noteHere } from '#server/store/presence.ts';
import type { Route } from './+types/draft-here';

export const loader = postOnly;

/** Told by a page that has a draft, every while and when it is left. Answers with who else has it. */
export const action = guardedAction(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<{ others: string[] }> => {
    const id = idParam(params.id, 'dashboard');
    if (new URL(request.url).searchParams.has('gone')) {
      await noteGone(id, user.id);
      return { others: [] };
    }
    return { others: await noteHere(id, user.id) };
  },
);
