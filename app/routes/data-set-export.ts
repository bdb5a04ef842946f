import { data } from 'react-router';
import { problemOf } from '#core/value/problem/problem.ts';
import { exportFormatNames } from '#core/words/export-formats.ts';
import { exportDataSet } from '#server/export/export.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { findDataSet, worldOf } from '#server/store/data-sets.ts';
import { zoneOf } from '#server/store/zone.ts';
import { inTurn } from '#server/turns/in-turn.ts';
import type { Route } from './+types/data-set-export';

/** All records of a data set, as a file. */
export const loader = guardedLoader(
  to('build'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
    const id = idParam(params.id, 'data set');
    const as = new URL(request.url).searchParams.get('as');
    const format = exportFormatNames.find((each) => each === as);
    const [stored, zone] = await Promise.all([findDataSet(id), zoneOf(id)]);
    if (!stored || !format) throw notFound('data set to download');
    try {
      const world = await worldOf(stored.definition);
      const how = { zone, now: new Date(), format, signal: request.signal };
      return await inTurn('download', user.id, () => exportDataSet(stored, world, how), request.signal);
    } catch (thrown) {
      const { doing, why } = problemOf(thrown, 'downloading');
      throw data({ title: 'This could not be downloaded', why: `${doing}: ${why}` }, { status: 409 });
    }
  },
);
