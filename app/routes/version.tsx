import { Link, useFetcher, useLocation } from 'react-router';
import { versionChanges } from '#core/definitions/version-changes.ts';
import { formatMoment } from '#core/value/format/format.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { openDashboard } from '#server/panes/context.ts';
import { type DashboardView, type FirstResults, firstResults, viewOf } from '#server/panes/shown.ts';
import { earlierRefusal } from '#server/panes/view-request.ts';
import { askerOf } from '#server/people/asker.ts';
import { findDraft, listVersions, versionOf } from '#server/store/dashboards.ts';
import { DashboardPage } from '../desk/dashboard-page.tsx';
import { unlessScope } from '../desk/revalidate.ts';
import { Button } from '../ui/button.tsx';
import { untilLoaded } from '../ui/load-again.ts';
import type { PublishAnswer } from '../workroom/answers.ts';
import type { Route } from './+types/version';

interface Loaded {
  readonly view: DashboardView;
  readonly first: FirstResults;
  readonly number: number;
  readonly at: string;
  readonly by: string | null;
  readonly remark: string;
  readonly published: number | null;
  /** What readers have otherwise now, in sentences. */
  readonly since: readonly string[];
}

/** A version of a dashboard as it was published, with the records of now. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build', 'the dashboard'),
  async ({ params, request, user }) => {
    const id = idParam(params.id, 'dashboard');
    const [draft, listed] = await Promise.all([findDraft(id), listVersions(id)]);
    const version = listed.find(({ number }) => String(number) === params.version);
    if (!draft || !version) throw notFound('version');
    const { number, at, by, remark } = version;
    const now = new Date();
    const query = new URL(request.url).searchParams;
    const [opened, is, was] = await Promise.all([
      openDashboard({ id }, number, query, now, askerOf(user)),
      draft.published === null ? null : versionOf(id, draft.published),
      versionOf(id, number),
    ]);
    if (!opened) throw notFound('version');
    return {
      view: await viewOf(opened, earlierRefusal),
      first: await firstResults(opened.context, request.signal),
      number,
      at: at.toISOString(),
      by,
      remark,
      published: draft.published,
      since: is && was ? versionChanges(was, is, { now, zone: draft.desk.zone }) : [],
    };
  },
);

export const shouldRevalidate = unlessScope;

export default function Version({ loaderData }: Route.ComponentProps) {
  const { view, first, number, at, by, remark, published, since } = loaderData;
  const { search } = useLocation();
  const giving = useFetcher<PublishAnswer>();
  const draft = `/workroom/dashboards/${view.id}`;
  const isPublished = number === published;
  return (
    <DashboardPage key={`${view.id} ${number}`} view={view} first={first}>
      <title>{`${view.dashboard.title}, version ${number} · Slate Glass`}</title>
      <section
        aria-label="Version"
        className="no-print mb-4 flex flex-wrap items-start gap-x-4 gap-y-2 border-y border-hair py-2"
      >
        <div className="min-w-0 flex-1">
          <p>
            <b>
              {view.dashboard.title}, version {number}
            </b>{' '}
            <span className="text-small text-muted">
              {formatMoment(at, { zone: view.desk.zone, now: new Date(view.now) })}
              {by && `, ${by}`}
            </span>
          </p>
          <p className="text-small text-slate">
            As it was published, with the records of now. {isPublished && 'Readers have this version.'}
          </p>
          {remark !== '' && <p className="mt-1 whitespace-pre-line">{remark}</p>}
          {since.length > 0 && published !== null && (
            <details className="mt-1 text-small">
              <summary className="cursor-pointer text-accent">
                What version {published}, which readers have, does otherwise
              </summary>
              <ul className="mt-1 list-disc pl-5 text-slate">
                {since.map((change) => (
                  <li key={change}>{change}</li>
                ))}
              </ul>
            </details>
          )}
        </div>
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          {published !== null && !isPublished && (
            <>
              <Link
                to={`${draft}/versions/${published}${search}`}
                className="text-small text-accent hover:underline"
              >
                The same in version {published}
              </Link>
              <Link
                to={`${draft}/versions/${number}/beside/${published}${search}`}
                className="text-small text-accent hover:underline"
              >
                Beside version {published}
              </Link>
            </>
          )}
          <Link to={`${draft}/versions`} className="text-small text-accent hover:underline">
            All versions
          </Link>
          <Link to={draft} className="text-small text-accent hover:underline">
            To the draft
          </Link>
          {!isPublished && (
            <Button
              disabled={giving.state !== 'idle'}
              onClick={() =>
                void untilLoaded('page', () =>
                  giving.submit(
                    { intent: 'back', version: String(number) },
                    { method: 'post', action: draft },
                  ),
                )
              }
            >
              Give readers this
            </Button>
          )}
        </div>
      </section>
    </DashboardPage>
  );
}
