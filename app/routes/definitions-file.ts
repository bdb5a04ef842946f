import { fileText } from '#core/definitions/file.ts';
import { gatherDefinitions, type Wanted } from '#server/definitions/gather.ts';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { isId } from '#server/ids.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { deskOfDashboard } from '#server/store/dashboards.ts';
import type { User } from '#server/store/people.ts';
import type { Route } from './+types/definitions-file';

/** What an address asks for, of what the person may build. */
async function wantedOf(params: URLSearchParams, user: User): Promise<Wanted> {
  const desks = await desksOf(user, 'build');
  const [dashboard, dataSet, slug] = [params.get('dashboard'), params.get('data-set'), params.get('desk')];
  if (isId(dataSet)) return { dataSet };
  if (isId(dashboard)) {
    const desk = await deskOfDashboard(dashboard);
    if (!desks.some(({ id }) => id === desk)) throw notFound('dashboard');
    return { dashboard };
  }
  const some = slug === null ? desks : desks.filter((desk) => desk.slug === slug);
  if (some.length === 0) throw notFound('desk');
  return { desks: some.map(({ id }) => id) };
}

/** Definitions as a file. */
export const loader = guardedLoader(to('build'), async ({ request, user }: Signed<Route.LoaderArgs>) => {
  const params = new URL(request.url).searchParams;
  const file = await gatherDefinitions(await wantedOf(params, user));
  return new Response(fileText(file), {
    headers: {
      'Content-Type': 'application/json; charset=utf-8',
      'Content-Disposition': 'attachment; filename="definitions.json"',
    },
  });
});
