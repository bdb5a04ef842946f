import type { CSSProperties } from 'react';
import { data } from 'react-router';
import { formatMoment } from '#core/value/format/format.ts';
import { notFound, openToAll } from '#server/guard.ts';
import { type PublicPage, publicPage } from '#server/panes/public-page.ts';
import { admitToPublic } from '#server/people/public-limit.ts';
import { lookOf } from '../panes/looks.ts';
import { StillPane } from '../panes/still-pane.tsx';
import { Mark } from '../ui/mark.tsx';
import type { Route } from './+types/public';

/** A dashboard as a link shows it, without signing in. */
export const loader = openToAll(
  async ({ params, request, context }: Route.LoaderArgs): Promise<PublicPage> => {
    if (!(await admitToPublic(context.address)))
      throw data(
        {
          title: 'Too many at once',
          why: 'This address has asked for many pages. Wait a minute, then reload.',
        },
        { status: 429 },
      );
    const page = await publicPage(params.link, new Date(), request.signal);
    if (!page) throw notFound('page');
    return page;
  },
);

export default function Public({ loaderData }: Route.ComponentProps) {
  const { title, desk, scope, now, endsAt, isOnePane, panes, records } = loaderData;
  const clock = { now: new Date(now), zone: desk.zone };
  if (isOnePane) return <OnePane page={loaderData} />;
  return (
    <>
      <title>{`${title} · Slate Glass`}</title>
      <header className="glass flex items-center gap-3 px-4 py-2.5 sm:px-7">
        <Mark className="size-5" />
        <span className="truncate text-body font-strong text-on-glass">{desk.name}</span>
      </header>
      <main id="main" tabIndex={-1} className="mx-auto max-w-[1680px] px-4 pt-5 pb-16 sm:px-7">
        <h1 className="text-title">{title}</h1>
        {scope !== '' && <p className="text-lead text-slate">{scope}</p>}
        <p className="mb-6 text-small text-muted">
          As of {formatMoment(now, clock)}. This page can be seen until {formatMoment(endsAt, clock)}.
        </p>
        <div className="sheet-grid">
          {panes.map(({ pane, result }) => (
            <section
              key={pane.id}
              aria-label={pane.title || 'Untitled'}
              data-pane={pane.id}
              data-fills={lookOf(pane).fills}
              className="pane relative flex min-w-0 flex-col overflow-hidden border-t border-hair pt-2.5 pb-3"
              style={
                {
                  gridColumn: `${pane.place.x + 1} / span ${pane.place.w}`,
                  gridRow: `${pane.place.y + 1} / span ${pane.place.h}`,
                  '--rows': pane.place.h,
                } as CSSProperties
              }
            >
              <h2 className="min-w-0 truncate text-body leading-7" title={pane.title}>
                {pane.title || 'Untitled'}
              </h2>
              <StillPane pane={pane} result={result} records={records} clock={clock} className="flex-1" />
            </section>
          ))}
        </div>
      </main>
    </>
  );
}

/** One pane by itself, for pages of other sites. */
function OnePane({ page: { title, scope, desk, now, panes, records } }: { page: PublicPage }) {
  const clock = { now: new Date(now), zone: desk.zone };
  const [only] = panes;
  const head = only?.pane.title || title;
  return (
    <main id="main" tabIndex={-1} className="flex h-dvh flex-col p-3">
      <title>{`${head} · Slate Glass`}</title>
      <h1 className="truncate text-body font-strong" title={head}>
        {head}
      </h1>
      <p className="mb-2 truncate text-small text-muted">
        {scope !== '' && `${scope}, `}as of {formatMoment(now, clock)}
      </p>
      {only ? (
        <StillPane
          pane={only.pane}
          result={only.result}
          records={records}
          clock={clock}
          className="flex-1 overflow-auto"
        />
      ) : (
        <p className="text-muted">It is no longer on its dashboard.</p>
      )}
    </main>
  );
}
