import { Outlet } from 'react-router';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { may, roleWord } from '#server/permission.ts';
import { listDesks } from '#server/store/dashboards.ts';
import { Mast } from '../ui/mast.tsx';
import type { Route } from './+types/workroom';

/** The room for building: sources, data sets, dashboards and their briefs. */
export const loader = guardedLoader(to('build'), async ({ user }: Signed<Route.LoaderArgs>) => {
  const desk = (await listDesks()).find(({ id }) => may(user, 'build', { desk: id }));
  return {
    deskName: desk?.name ?? 'Slate Glass',
    person: { name: user.name, email: user.email, role: roleWord(user) },
  };
});

export default function Workroom({ loaderData }: Route.ComponentProps) {
  return (
    <>
      <Mast
        name={`${loaderData.deskName} workroom`}
        home="/workroom"
        links={[
          { to: '/workroom', text: 'Everything' },
          { to: '/workroom/sources/new', text: 'Add a source' },
          { to: '/workroom/data-sets/new', text: 'Make a data set' },
          { to: '/workroom/dashboards/new', text: 'Start a dashboard' },
          { to: '/workroom/changes', text: 'Changes' },
        ]}
        person={loaderData.person}
        mayBuild
        room="workroom"
      />
      <Outlet />
    </>
  );
}
