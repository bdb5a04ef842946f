import { Outlet, type ShouldRevalidateFunctionArgs } from 'react-router';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { firstResults } from '#server/panes/shown.ts';
import { askerOf } from '#server/people/asker.ts';
import type { Route } from './+types/draft-panes';

/** What the panes of a draft show when it is opened. */
export const loader = guardedLoader(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
    const id = idParam(params.id, 'dashboard');
    const query = new URL(request.url).searchParams;
    const opened = await openDashboard({ id }, 'draft', query, new Date(), askerOf(user));
    if (!opened) throw notFound('dashboard');
    return firstResults(opened.context, request.signal);
  },
);

/** A page that stands asks for the panes that a change of its draft touches, and for no other. */
export const shouldRevalidate = ({ currentUrl, nextUrl }: ShouldRevalidateFunctionArgs): boolean =>
  currentUrl.pathname !== nextUrl.pathname;

export default function DraftPanes({ loaderData }: Route.ComponentProps) {
  return <Outlet context={loaderData} />;
}
