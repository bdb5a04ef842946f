import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { openForView } from '#server/panes/view-request.ts';
import { answerPdf, drawnWith, hasWholeLists, readSheet } from '#server/paper/answer.ts';
import type { Route } from './+types/view-paper';

/** A dashboard in its scope as a PDF. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query, seen } = await openForView(params.id, request, user, context);
    const { desk, slug, dashboard } = opened.shown;
    const sheet = readSheet(query);
    const { title } = dashboard;
    return answerPdf(
      {
        user,
        seeAs: seen?.id ?? null,
        desk: desk.name,
        title,
        dashboards: [{ path: `/desk/${desk.slug}/${slug}?${drawnWith(query, hasWholeLists(query))}`, title }],
        sheet,
        signal: request.signal,
      },
      slug,
    );
  },
);
