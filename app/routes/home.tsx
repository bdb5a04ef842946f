import { redirect } from 'react-router';
import { guardedLoader, to } from '#server/guard.ts';
import { desksOf } from '#server/people/desks-of.ts';
import type { Route } from './+types/home';

export const loader = guardedLoader<Route.LoaderArgs, Response>(to('read'), async ({ user }) => {
  const [desk] = await desksOf(user, 'read');
  return redirect(desk ? `/desk/${desk.slug}` : '/workroom');
});
