import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { answerPdf, drawnWith, hasWholeLists, readSheet } from '#server/paper/answer.ts';
import { seenAs } from '#server/people/see-as.ts';
import { menuOf } from '#server/store/dashboards.ts';
import { findDesk } from '#server/store/desks.ts';
import { openingAddresses } from '#server/store/scopes.ts';
import type { Route } from './+types/desk-paper';

/** As many dashboards as one PDF holds. */
const mostInOne = 30;

/** Every dashboard of a desk as one PDF, each as it opens for whoever asks. */
export const loader = guardedLoader(
  to('read', 'the desk'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    const [menu, openings, seen] = await Promise.all([
      menuOf(desk.id, true),
      openingAddresses(desk.id, user.id),
      seenAs(user, context, { desk: desk.id }),
    ]);
    if (menu.length === 0) throw notFound('dashboard');
    const query = new URL(request.url).searchParams;
    const isWhole = hasWholeLists(query);
    return answerPdf(
      {
        user,
        seeAs: seen?.id ?? null,
        desk: desk.name,
        title: desk.name,
        dashboards: menu.slice(0, mostInOne).map(({ id, slug, title }) => ({
          path: `/desk/${desk.slug}/${slug}?${drawnWith(new URLSearchParams(openings.get(id)), isWhole)}`,
          title,
        })),
        sheet: readSheet(query),
        signal: request.signal,
      },
      desk.slug,
    );
  },
);
