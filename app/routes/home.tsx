import { redirect } from 'react-router';
import { guardedLoader } from '#server/guard.ts';
import { listDesks } from '#server/store/dashboards.ts';
import type { Route } from './+types/home';

export const loader = guardedLoader<Route.LoaderArgs, Response>('read', async () => {
  const [desk] = await listDesks();
  return redirect(desk ? `/desk/${desk.slug}` : '/workroom');
});
