import { Outlet } from 'react-router';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { mastOf } from '#server/people/mast.ts';
import { Mast } from '../ui/mast.tsx';
import type { Route } from './+types/administration';

/** The room of administrators: people, groups, desks, and what was done. */
export const loader = guardedLoader(
  to('administer', 'the installation'),
  async ({ user }: Signed<Route.LoaderArgs>) => ({ of: await mastOf(user) }),
);

export default function Administration({ loaderData }: Route.ComponentProps) {
  return (
    <>
      <Mast
        name="People and desks"
        home="/administration/people"
        links={[
          { to: '/administration/people', text: 'People', end: false },
          { to: '/administration/groups', text: 'Groups' },
          { to: '/administration/desks', text: 'Desks', end: false },
          { to: '/administration/history', text: 'What was done' },
        ]}
        of={loaderData.of}
        room="administration"
      />
      <Outlet />
    </>
  );
}
