import { data } from 'react-router';
import type { Context } from '#core/dashboard/flow/context.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { problemOf } from '#core/value/problem/problem.ts';
import { exportFormatNames, pageFormat } from '#core/words/export-formats.ts';
import { exportBehind, exportList, exportPage } from '#server/export/export.ts';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { behindViewOf, cellOf } from '#server/panes/drill.ts';
import { withPicked } from '#server/panes/picked.ts';
import { openForView } from '#server/panes/view-request.ts';
import { inTurn } from '#server/turns/in-turn.ts';
import type { Route } from './+types/view-export';

/** The records of a table in its scope, or those behind a number, as a file. */
export const loader = guardedLoader(
  to('read', 'the dashboard'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const { opened, params: query } = await openForView(params.id, request, user, context);
    const write = writerOf(opened.context.dashboard.panes, query, request.signal);
    if (!write) throw notFound('table to download');
    try {
      const context = await withPicked(opened.context, request.signal);
      return await inTurn('download', user.id, () => write(context), request.signal);
    } catch (thrown) {
      const { doing, why } = problemOf(thrown, 'downloading');
      throw data({ title: 'This could not be downloaded', why: `${doing}: ${why}` }, { status: 409 });
    }
  },
);

/** What writes the file that an address asks for; null where it asks for none. */
function writerOf(
  panes: readonly Pane[],
  query: URLSearchParams,
  signal: AbortSignal,
): ((context: Context) => Promise<Response>) | null {
  const pane = panes.find(({ id }) => id === query.get('_pane'));
  const cell = cellOf(query);
  if (pane && query.get('_as') === pageFormat) return (context) => exportPage(pane, context, signal);
  const format = exportFormatNames.find((each) => each === query.get('_as'));
  if (!format) return null;
  if (cell)
    return (context) =>
      exportBehind(
        cell,
        { view: behindViewOf(query), shown: query.getAll('_show').slice(0, 500) },
        context,
        format,
        signal,
      );
  return pane ? (context) => exportList(pane, context, format, signal) : null;
}
