import { NavLink } from 'react-router';
import { type FollowUpList, followUpLists, type ListedFollowUp } from '#core/change/follow-up.ts';
import { withinSight } from '#server/change/within-sight.ts';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { askerOf } from '#server/people/asker.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { menuOf } from '#server/store/dashboards.ts';
import { findDesk } from '#server/store/desks.ts';
import { listFollowUps } from '#server/store/follow-ups.ts';
import { WorkList } from '../desk/follow-up/work-list.tsx';
import { Mast, type MastLink } from '../ui/mast.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/follow-ups';

const listWords: Readonly<Record<FollowUpList, string>> = {
  mine: 'For me',
  open: 'All that is open',
  settled: 'Settled',
};

const emptyWords: Readonly<Record<FollowUpList, string>> = {
  mine: 'Nothing is given to you that is not settled, and there is no news for you.',
  open: 'Nothing is open. Follow-ups begin on a record, where its data set lets people note what they learnt.',
  settled: 'Nothing has been settled yet.',
};

interface Loaded {
  desk: { name: string; slug: string; zone: string; accent: string };
  links: MastLink[];
  of: MastOf;
  view: FollowUpList;
  list: ListedFollowUp[];
  /** ISO 8601. */
  now: string;
}

/** What is to be done about records of a desk: given to oneself, all that is open, or what was settled. */
export const loader = guardedLoader(
  to('read', 'the desk'),
  async ({ params, request, user }: Signed<Route.LoaderArgs>): Promise<Loaded> => {
    const desk = await findDesk(params.desk);
    if (!desk) throw notFound('desk');
    const asked = new URL(request.url).searchParams.get('show');
    const view = followUpLists.find((name) => name === asked) ?? 'open';
    const [menu, of, list] = await Promise.all([
      menuOf(desk.id, true),
      mastOf(user, desk),
      listFollowUps(desk.id, view, user.id),
    ]);
    const now = new Date();
    const seen = await withinSight(
      list,
      { asker: askerOf(user), clock: { now, zone: desk.zone } },
      request.signal,
    );
    return {
      desk: { name: desk.name, slug: desk.slug, zone: desk.zone, accent: desk.accent },
      links: menu.map(({ slug, title, group }) => ({ to: `/desk/${desk.slug}/${slug}`, text: title, group })),
      of,
      view,
      list: seen.map(({ dataSetId: _, ...each }) => each),
      now: now.toISOString(),
    };
  },
);

export default function FollowUps({ loaderData }: Route.ComponentProps) {
  const { desk, links, of, view, list, now } = loaderData;
  return (
    <>
      <Mast
        name={desk.name}
        home={`/desk/${desk.slug}`}
        links={links}
        of={of}
        room="desk"
        {...(of.desks.length > 1 ? { accent: desk.accent } : {})}
      />
      <Page
        title="Follow-ups"
        lead="Who has waited longest untouched comes first; n goes to the next one."
        wide
      >
        <nav
          aria-label="Which follow-ups"
          className="mb-5 flex flex-wrap gap-x-6 gap-y-1 border-b border-line"
        >
          {followUpLists.map((name) => (
            <NavLink
              key={name}
              to={`?show=${name}`}
              aria-current={name === view ? 'page' : undefined}
              className={`-mb-px border-b-2 py-1.5 ${name === view ? 'border-accent font-strong text-accent' : 'border-transparent text-slate hover:text-accent'}`}
            >
              {listWords[name]}
            </NavLink>
          ))}
        </nav>
        <WorkList
          key={`${view} ${now}`}
          list={list}
          desk={desk.slug}
          by={{ now: new Date(now), zone: desk.zone }}
          empty={emptyWords[view]}
        />
      </Page>
    </>
  );
}
