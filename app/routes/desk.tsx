import { Form, redirect, type ShouldRevalidateFunctionArgs } from 'react-router';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { firstResults, viewOf } from '#server/panes/shown.ts';
import { askerOf } from '#server/people/asker.ts';
import { mastOf } from '#server/people/mast.ts';
import { seeAsRefusal, seenAs } from '#server/people/see-as.ts';
import { actRefusal, roleWord } from '#server/permission.ts';
import { menuOf } from '#server/store/dashboards.ts';
import { findDesk } from '#server/store/desks.ts';
import { countFor } from '#server/store/follow-ups.ts';
import { openingAddresses } from '#server/store/scopes.ts';
import { DashboardPage } from '../desk/dashboard-page.tsx';
import { FollowUpsLink } from '../desk/follow-up/mast-link.tsx';
import { ButtonLink } from '../ui/button.tsx';
import { choosesLook } from '../ui/look.ts';
import { Mast } from '../ui/mast.tsx';
import type { Route } from './+types/desk';

/** A dashboard as readers get it: the published version, never the draft. */
export const loader = guardedLoader(
  to('read', 'the desk'),
  async ({ params, request, user, context }: Signed<Route.LoaderArgs>) => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    const [seen, menu, of, openings, given] = await Promise.all([
      seenAs(user, context, { desk: desk.id }),
      menuOf(desk.id, true),
      mastOf(user, desk),
      openingAddresses(desk.id, user.id),
      countFor(desk.id, user.id),
    ]);
    const wanted = params.dashboard ?? menu[0]?.slug;
    if (params.dashboard === undefined && wanted !== undefined)
      throw redirect(`/desk/${desk.slug}/${wanted}${openings.get(menu[0]?.id ?? '') ?? ''}`);
    const links = menu.map(({ id, slug, title, group }) => ({
      to: `/desk/${desk.slug}/${slug}${openings.get(id) ?? ''}`,
      text: title,
      group,
    }));
    const shared = {
      desk,
      links,
      of,
      given,
      seen: seen && { name: seen.name, role: roleWord(seen, desk.id) },
    };
    if (wanted === undefined) return { ...shared, view: null, first: null };
    const opened = await openDashboard(
      { deskId: desk.id, slug: wanted },
      'published',
      new URL(request.url).searchParams,
      new Date(),
      askerOf(seen ?? user),
    );
    if (!opened) throw notFound('dashboard');
    return {
      ...shared,
      view: await viewOf(opened, seen ? seeAsRefusal(seen) : actRefusal(user, desk.id), of.mayBuild && !seen),
      first: await firstResults(opened.context, request.signal),
    };
  },
);

/** A change of scope asks only the panes it touches, and one of how pages look or of saved scopes none; the page itself stays. */
export function shouldRevalidate({
  currentUrl,
  nextUrl,
  formMethod,
  formAction,
  defaultShouldRevalidate,
}: ShouldRevalidateFunctionArgs): boolean {
  if (currentUrl.pathname !== nextUrl.pathname) return true;
  const isElsewhere = choosesLook(formAction) || formAction?.endsWith('/scopes');
  return formMethod !== undefined && !isElsewhere && defaultShouldRevalidate;
}

export default function Desk({ loaderData }: Route.ComponentProps) {
  const { desk, links, of, given, seen, view, first } = loaderData;
  return (
    <>
      <title>{`${view?.dashboard.title ?? desk.name} · ${desk.name}`}</title>
      <Mast
        name={desk.name}
        home={`/desk/${desk.slug}`}
        links={links}
        of={of}
        room="desk"
        {...(of.desks.length > 1 ? { accent: desk.accent } : {})}
      >
        <FollowUpsLink desk={desk.slug} count={given} />
      </Mast>
      {seen && <SeenAs {...seen} />}
      {view && first ? (
        <DashboardPage key={view.id} view={view} first={first} />
      ) : (
        <main id="main" tabIndex={-1} className="flex flex-col items-start gap-3 p-8">
          <h1 className="text-title">{desk.name}</h1>
          <p className="text-lead text-slate">Nothing has been published on this desk yet.</p>
          {of.mayBuild && <ButtonLink to="/workroom">To the workroom</ButtonLink>}
        </main>
      )}
    </>
  );
}

/** Says as whom the page is seen, on paper too. */
function SeenAs({ name, role }: { name: string; role: string }) {
  return (
    <Form
      method="post"
      action="/see-as"
      className="flex items-center gap-4 border-b border-slipping bg-well px-4 py-1.5 text-small sm:px-7"
    >
      <p role="status">
        You see this as <b>{name}</b>, {role}: what they may see, and nothing can be changed.
      </p>
      <button type="submit" className="no-print font-strong text-accent hover:underline">
        Stop
      </button>
    </Form>
  );
}
