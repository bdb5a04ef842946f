import { Link } from 'react-router';
import { versionChanges } from '#core/definitions/version-changes.ts';
import { formatMoment } from '#core/value/format/format.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { findDraft, listVersions, versionOf } from '#server/store/dashboards.ts';
import { ButtonLink } from '../ui/button.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/versions';

/** This many versions are held against the one before them; older ones are listed only. */
const mostCompared = 50;

interface Loaded {
  readonly id: string;
  readonly title: string;
  readonly zone: string;
  readonly now: string;
  readonly versions: readonly {
    readonly number: number;
    readonly at: string;
    readonly by: string | null;
    readonly remark: string;
    readonly isPublished: boolean;
    /** Since the version before; null where it is the first, or too long ago. */
    readonly changes: readonly string[] | null;
  }[];
}

/** What was published of a dashboard, when and by whom, and what each version changed. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build', 'the dashboard'),
  async ({ params }) => {
    const id = idParam(params.id, 'dashboard');
    const draft = await findDraft(id);
    if (!draft) throw notFound('dashboard');
    const listed = await listVersions(id);
    const recent = listed.slice(0, mostCompared + 1);
    const definitions = new Map(
      await Promise.all(recent.map(async ({ number }) => [number, await versionOf(id, number)] as const)),
    );
    const now = new Date();
    const clock = { now, zone: draft.desk.zone };
    return {
      id,
      title: draft.dashboard.title,
      zone: draft.desk.zone,
      now: now.toISOString(),
      versions: listed.map(({ number, at, by, remark }, place) => {
        const [is, was] = [definitions.get(number), definitions.get(listed[place + 1]?.number ?? 0)];
        return {
          number,
          at: at.toISOString(),
          by,
          remark,
          isPublished: number === draft.published,
          changes: is && was ? versionChanges(was, is, clock) : null,
        };
      }),
    };
  },
);

export default function Versions({ loaderData }: Route.ComponentProps) {
  const { id, title, versions, zone, now } = loaderData;
  return (
    <Page
      title={`Versions of ${title}`}
      lead="What readers were given, and what each version changed."
      action={<ButtonLink to={`/workroom/dashboards/${id}`}>To the draft</ButtonLink>}
    >
      <ol className="border-t border-line">
        {versions.map(({ number, at: moment, by, remark, isPublished, changes }, at) => (
          <li
            key={number}
            className="grid gap-x-6 border-b border-hair py-3 sm:grid-cols-[11rem_minmax(0,1fr)]"
          >
            <div>
              <p className="font-strong">
                <Link
                  to={`/workroom/dashboards/${id}/versions/${number}`}
                  className="text-accent hover:underline"
                >
                  Version {number}
                </Link>
              </p>
              <p className="text-small text-muted">
                {formatMoment(moment, { zone, now: new Date(now) })}
                {by && `, ${by}`}
              </p>
              {isPublished && <p className="text-small text-accent">readers get this</p>}
              {versions[at + 1] && (
                <p>
                  <Link
                    to={`/workroom/dashboards/${id}/versions/${versions[at + 1]?.number}/beside/${number}`}
                    className="text-small text-accent hover:underline"
                  >
                    Beside the one before
                  </Link>
                </p>
              )}
            </div>
            <div className="min-w-0">
              {remark !== '' && <p className="mb-1 whitespace-pre-line">{remark}</p>}
              {changes === null ? (
                <p className="text-muted">
                  {number === versions.at(-1)?.number ? 'The first version.' : 'Too long ago to compare.'}
                </p>
              ) : changes.length === 0 ? (
                <p className="text-muted">Readers see no difference.</p>
              ) : (
                <ul className="list-disc pl-5 text-slate">
                  {changes.map((change) => (
                    <li key={change}>{change}</li>
                  ))}
                </ul>
              )}
            </div>
          </li>
        ))}
      </ol>
      {versions.length === 0 && (
        <p className="text-muted">
          Nothing has been published yet.{' '}
          <Link to={`/workroom/dashboards/${id}`} className="text-accent hover:underline">
            To the draft
          </Link>
        </p>
      )}
    </Page>
  );
}
