import { Outlet } from 'react-router';
import { Toaster } from 'sonner';
import { guardedLoader, type Signed } from '#server/guard.ts';
import { listDesks } from '#server/store/dashboards.ts';
import { Mast } from '../ui/mast.tsx';
import type { Route } from './+types/workshop';

/** The room for building: sources, data sets, dashboards and their briefs. */
export const loader = guardedLoader('build', async ({ user }: Signed<Route.LoaderArgs>) => {
  const [desk] = await listDesks();
  return {
    deskName: desk?.name ?? 'Slate Glass',
    person: { name: user.name, email: user.email, role: user.role },
  };
});

export default function Workshop({ loaderData }: Route.ComponentProps) {
  return (
    <>
      <Mast
        name={`${loaderData.deskName} workshop`}
        home="/workshop"
        links={[
          { to: '/workshop', text: 'Everything' },
          { to: '/workshop/sources/new', text: 'Add a source' },
          { to: '/workshop/data-sets/new', text: 'Make a data set' },
          { to: '/workshop/dashboards/new', text: 'Start a dashboard' },
        ]}
        person={loaderData.person}
        mayBuild
        room="workshop"
      />
      <Outlet />
      <Toaster position="bottom-left" toastOptions={{ duration: 4000 }} />
    </>
  );
}
