import { data } from 'react-router';
import { problemOf } from '#core/value/problem/problem.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { openForView } from '#server/panes/view-request.ts';
import { pdfAnswer, readSheet } from '#server/paper/answer.ts';
import { pdfOf } from '#server/paper/pdf.ts';
import { inTurn } from '#server/turns/in-turn.ts';
import type { Route } from './+types/view-paper';

/** A dashboard in its scope as a PDF. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: asked, seen } = await openForView(params.id, request, user, context);
    const { desk, slug, dashboard } = opened.shown;
    const sheet = readSheet(asked);
    for (const name of [...asked.keys()]) if (name.startsWith('_')) asked.delete(name);
    const { title } = dashboard;
    try {
      const pdf = await inTurn(
        'paper',
        user.id,
        () =>
          pdfOf({
            user,
            seeAs: seen?.id ?? null,
            desk: desk.name,
            title,
            dashboards: [{ path: `/desk/${desk.slug}/${slug}?${asked}`, title }],
            sheet,
            signal: request.signal,
          }),
        request.signal,
      );
      return pdfAnswer(pdf, slug);
    } catch (thrown) {
      const { why, mend } = problemOf(thrown, 'writing the PDF');
      throw data({ title: 'There is no PDF of this just now', why: `${why}. ${mend}` }, { status: 503 });
    }
  },
);
