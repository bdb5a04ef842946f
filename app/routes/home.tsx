import { redirect } from 'react-router';
import { guardedLoader, to } from '#server/guard.ts';
import { may } from '#server/permission.ts';
import { listDesks } from '#server/store/dashboards.ts';
import type { Route } from './+types/home';

export const loader = guardedLoader<Route.LoaderArgs, Response>(to('read'), async ({ user }) => {
  const desk = (await listDesks()).find(({ id }) => may(user, 'read', { desk: id }));
  return redirect(desk ? `/desk/${desk.slug}` : '/workroom');
});
