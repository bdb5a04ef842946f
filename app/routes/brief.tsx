import type { ShouldRevalidateFunctionArgs } from 'react-router';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { viewOf } from '#server/panes/shown.ts';
import { askerOf } from '#server/people/asker.ts';
import { menuOf } from '#server/store/dashboards.ts';
import { allDataSets } from '#server/store/data-sets.ts';
import { BriefPage } from '../workroom/brief-page.tsx';
import type { Route } from './+types/brief';

/** The page where a pane's brief is written. */
export const loader = guardedLoader(
  to('build', 'the dashboard'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
    const opened = await openDashboard(
      { id: idParam(params.id, 'dashboard') },
      'draft',
      new URL(request.url).searchParams,
      new Date(),
      askerOf(user),
    );
    const pane = opened?.shown.dashboard.panes.find(({ id }) => id === params.pane);
    if (!opened?.draft || !pane) throw notFound('pane');
    const [menu, all] = await Promise.all([menuOf(opened.draft.desk.id, false), allDataSets()]);
    return {
      view: await viewOf(opened, null),
      paneId: pane.id,
      revision: opened.draft.revision,
      dataSets: all.map(({ id, name, definition }) => ({ id, name, definition })),
      dashboards: menu.map(({ id, title }) => ({ id, title })),
    };
  },
);

export function shouldRevalidate({ currentUrl, nextUrl }: ShouldRevalidateFunctionArgs): boolean {
  return currentUrl.pathname !== nextUrl.pathname;
}

export default function Brief({ loaderData }: Route.ComponentProps) {
  return <BriefPage key={loaderData.paneId} {...loaderData} />;
}
