import { Link, redirect, type ShouldRevalidateFunctionArgs } from 'react-router';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { firstResults, viewOf } from '#server/panes/shown.ts';
import { actRefusal, may, roleWord } from '#server/permission.ts';
import { findDesk, menuOf } from '#server/store/dashboards.ts';
import { countGiven } from '#server/store/follow-ups.ts';
import { openingAddresses } from '#server/store/scopes.ts';
import { DashboardPage } from '../desk/dashboard-page.tsx';
import { ButtonLink } from '../ui/button.tsx';
import { Mast } from '../ui/mast.tsx';
import type { Route } from './+types/desk';

/** A dashboard as readers get it: the published version, never the draft. */
export const loader = guardedLoader(
  to('read', 'the desk'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>) => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    const [menu, openings, given] = await Promise.all([
      menuOf(desk.id, true),
      openingAddresses(desk.id, user.id),
      countGiven(desk.id, user.id),
    ]);
    const wanted = params.dashboard ?? menu[0]?.slug;
    if (params.dashboard === undefined && wanted !== undefined)
      throw redirect(`/desk/${desk.slug}/${wanted}${openings.get(menu[0]?.id ?? '') ?? ''}`);
    const person = { name: user.name, email: user.email, role: roleWord(user, desk.id) };
    const links = menu.map(({ id, slug, title }) => ({
      to: `/desk/${desk.slug}/${slug}${openings.get(id) ?? ''}`,
      text: title,
    }));
    const shared = { desk, links, person, given, mayBuild: may(user, 'build', { desk: desk.id }) };
    if (wanted === undefined) return { ...shared, view: null, first: null };
    const opened = await openDashboard(
      { deskId: desk.id, slug: wanted },
      false,
      new URL(request.url).searchParams,
      new Date(),
      user,
    );
    if (!opened) throw notFound('dashboard');
    return {
      ...shared,
      view: await viewOf(opened, actRefusal(user, desk.id)),
      first: firstResults(opened.context, request.signal),
    };
  },
);

/** A change of scope asks only the panes it touches, and one of the theme or of saved scopes none; the page itself stays. */
export function shouldRevalidate({
  currentUrl,
  nextUrl,
  formMethod,
  formAction,
  defaultShouldRevalidate,
}: ShouldRevalidateFunctionArgs): boolean {
  if (currentUrl.pathname !== nextUrl.pathname) return true;
  const isElsewhere = formAction === '/theme' || formAction?.endsWith('/scopes');
  return formMethod !== undefined && !isElsewhere && defaultShouldRevalidate;
}

export default function Desk({ loaderData }: Route.ComponentProps) {
  const { desk, links, person, given, mayBuild, view, first } = loaderData;
  return (
    <>
      <title>{`${view?.dashboard.title ?? desk.name} · ${desk.name}`}</title>
      <Mast
        name={desk.name}
        home={`/desk/${desk.slug}`}
        links={links}
        person={person}
        mayBuild={mayBuild}
        room="desk"
      >
        <Link
          to={`/follow-ups/${desk.slug}${given > 0 ? '?show=mine' : ''}`}
          className={`shrink-0 text-small text-on-glass-muted hover:text-on-glass ${given > 0 ? '' : 'max-sm:hidden'}`}
        >
          <span className="max-sm:sr-only">Follow-ups</span>
          {given > 0 && (
            <span className="figures ml-1.5 rounded-full border border-current px-1.5 font-strong text-on-glass">
              {given}
              <span className="sr-only"> given to you</span>
            </span>
          )}
        </Link>
      </Mast>
      {view && first ? (
        <DashboardPage key={view.id} view={view} first={first} />
      ) : (
        <main id="main" tabIndex={-1} className="flex flex-col items-start gap-3 p-8">
          <h1 className="text-title">{desk.name}</h1>
          <p className="text-lead text-slate">Nothing has been published on this desk yet.</p>
          {mayBuild && <ButtonLink to="/workroom">To the workroom</ButtonLink>}
        </main>
      )}
    </>
  );
}
