import { data } from 'react-router';
import { problemOf } from '#core/problem/problem.ts';
import { guardedLoader, notFound, type Signed } from '#server/guard.ts';
import { openForView } from '#server/panes/view-request.ts';
import { saveFormats, saveTable } from '#server/save/save.ts';
import type { Route } from './+types/view-save';

/** The records of a table in its scope, as a file. */
export const loader = guardedLoader('read', async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
  const { opened, params: asked } = await openForView(params.id, request, user);
  const pane = opened.context.dashboard.panes.find(({ id }) => id === asked.get('_pane'));
  const format = saveFormats.find((each) => each === asked.get('_as'));
  if (pane?.kind !== 'table' || !format) throw notFound('table to save');
  try {
    return await saveTable(pane, opened.context, format, request.signal);
  } catch (thrown) {
    const { doing, why } = problemOf(thrown, 'saving');
    throw data({ title: 'This could not be saved', why: `${doing}: ${why}` }, { status: 409 });
  }
});
