import { Outlet } from 'react-router';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { mastOf } from '#server/people/mast.ts';
import { Mast } from '../ui/mast.tsx';
import type { Route } from './+types/workroom';

/** The room for building: sources, data sets, dashboards and their briefs. */
export const loader = guardedLoader(to('build'), async ({ user }: Signed<Route.LoaderArgs>) => {
  const [desk, ...others] = await desksOf(user, 'build');
  return {
    name: desk && others.length === 0 ? `${desk.name} workroom` : 'Workroom',
    of: await mastOf(user),
  };
});

export default function Workroom({ loaderData }: Route.ComponentProps) {
  return (
    <>
      <Mast
        name={loaderData.name}
        home="/workroom"
        links={[
          { to: '/workroom', text: 'Everything' },
          { to: '/workroom/sources/new', text: 'Add a source' },
          { to: '/workroom/data-sets/new', text: 'Make a data set' },
          { to: '/workroom/dashboards/new', text: 'Start a dashboard' },
          { to: '/workroom/changes', text: 'Changes' },
          { to: '/workroom/definitions', text: 'Files' },
        ]}
        of={loaderData.of}
        room="workroom"
      />
      <Outlet />
    </>
  );
}
