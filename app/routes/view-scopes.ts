import { data } from 'react-router';
import { mostSavedScopes, type ScopesAnswer } from '#core/dashboard/scope/saved.ts';
import { ScopeRequest } from '#core/dashboard/scope/saved-request.ts';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, idParam, type Signed, to } from '#server/guard.ts';
import { may } from '#server/permission.ts';
import { deskOfDashboard } from '#server/store/dashboards.ts';
import type { User } from '#server/store/people.ts';
import { openWithScope, removeScope, saveScope, scopesFor } from '#server/store/scopes.ts';
import type { Route } from './+types/view-scopes';

async function mayOfferOn(id: string, user: User): Promise<boolean> {
  const desk = await deskOfDashboard(id);
  return desk !== null && may(user, 'build', { desk });
}

async function answer(
  id: string,
  { user, mayOffer, problem }: { user: User; mayOffer: boolean; problem?: string },
): Promise<ScopesAnswer> {
  return { scopes: await scopesFor(id, user.id), mayOffer, ...(problem === undefined ? {} : { problem }) };
}

export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, user }: Signed<Route.LoaderArgs>): Promise<ScopesAnswer> => {
    const id = idParam(params.id, 'dashboard');
    return answer(id, { user, mayOffer: await mayOfferOn(id, user) });
  },
);

/** Saves, removes, or opens with a scope: one's own, or, for those who build, one that is offered to everybody. */
export const action = guardedAction(
  to('read', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const id = idParam(params.id, 'dashboard');
    const mayOffer = await mayOfferOn(id, user);
    const given = { user, mayOffer };
    const read = readForm(await request.formData(), ScopeRequest);
    if (read.status !== 'success') {
      const problem = 'It needs a name of up to 200 characters.';
      return data(await answer(id, { ...given, problem }), { status: 400 });
    }
    const change = read.value;
    if (change.ask === 'open with') await openWithScope(id, user.id, change.id ?? null);
    if (change.ask === 'remove') await removeScope(id, change.id, mayOffer ? [user.id, null] : [user.id]);
    if (change.ask !== 'save') return answer(id, given);
    const owner = change.forAll === true && mayOffer ? null : user.id;
    const isSaved = await saveScope({ dashboardId: id, owner, name: change.name, search: change.search });
    const problem = `There are ${mostSavedScopes} already. Remove one that nobody needs.`;
    return answer(id, isSaved ? given : { ...given, problem });
  },
);
