import { Link, useLocation } from 'react-router';
import { type Edition, editionFrom } from '#core/dashboard/edition.ts';
import { type RecordNames, recordNames } from '#core/dataset/naming.ts';
import type { Clock } from '#core/value/period/period.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { type Beside, type BesidePane, besideEachOther } from '#server/panes/beside.ts';
import { type OpenDashboard, openDashboard } from '#server/panes/context.ts';
import { askerOf } from '#server/people/asker.ts';
import { lookOf } from '../panes/looks.ts';
import { StillPane } from '../panes/still-pane.tsx';
import { ButtonLink } from '../ui/button.tsx';
import { Quiet } from '../ui/message.tsx';
import { Page } from '../ui/page.tsx';
import type { Route } from './+types/version-beside';

interface Side {
  readonly edition: Edition;
  /** What identifies and names the records of its data sets. */
  readonly records: RecordNames;
}

interface Loaded {
  readonly id: string;
  readonly title: string;
  readonly zone: string;
  readonly now: string;
  readonly before: Side;
  readonly after: Side;
  readonly panes: readonly Beside[];
}

const sideOf = ({ edition, context }: OpenDashboard): Side => ({
  edition,
  records: recordNames(context.dataSets),
});

/** The panes that two editions of a dashboard do not show alike, beside each other, with the records of now. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('build', 'the dashboard'),
  async ({ params, request, user }) => {
    const id = idParam(params.id, 'dashboard');
    const now = new Date();
    const query = new URL(request.url).searchParams;
    const open = async (text: string): Promise<OpenDashboard> => {
      const edition = editionFrom(text);
      const opened = edition && (await openDashboard({ id }, edition, query, now, askerOf(user)));
      if (!opened) throw notFound('version');
      return opened;
    };
    const [before, after] = await Promise.all([open(params.version), open(params.other)]);
    return {
      id,
      title: after.shown.dashboard.title,
      zone: after.context.clock.zone,
      now: now.toISOString(),
      before: sideOf(before),
      after: sideOf(after),
      panes: await besideEachOther(before, after, request.signal),
    };
  },
);

const words = (edition: Edition): string =>
  edition === 'draft' ? 'The draft' : edition === 'published' ? 'What readers have' : `Version ${edition}`;

export default function VersionBeside({ loaderData }: Route.ComponentProps) {
  const { id, title, zone, now, before, after, panes } = loaderData;
  const { search } = useLocation();
  const clock = { now: new Date(now), zone };
  const names = [words(before.edition), words(after.edition)] as const;
  return (
    <Page
      wide
      title={`${names[0]} of ${title} beside ${names[1].replace(/^[A-Z]/, (first) => first.toLowerCase())}`}
      lead="The panes that are not alike, each with the records of now."
      action={<ButtonLink to={`/workroom/dashboards/${id}/versions`}>All versions</ButtonLink>}
    >
      {panes.length === 0 ? (
        <p className="text-muted">Every pane shows the same in both.</p>
      ) : (
        <div className="grid grid-cols-2 gap-x-8 gap-y-10 max-md:grid-cols-1">
          {[before, after].map(({ edition }, at) => (
            <p key={edition} className="border-b border-line pb-1 text-lead font-strong max-md:hidden">
              {edition === 'published' ? (
                names[at]
              ) : (
                <Link
                  to={`/workroom/dashboards/${id}${edition === 'draft' ? '' : `/versions/${edition}`}${search}`}
                  className="hover:text-accent hover:underline"
                >
                  {names[at]}
                </Link>
              )}
            </p>
          ))}
          {panes.map((each) => (
            <Pair key={each.id} of={each} names={names} sides={[before, after]} clock={clock} />
          ))}
        </div>
      )}
    </Page>
  );
}

function Pair({
  of: { before, after },
  names,
  sides: [left, right],
  clock,
}: {
  of: Beside;
  names: readonly [string, string];
  sides: readonly [Side, Side];
  clock: Clock;
}) {
  return (
    <>
      <OneSide of={before} other={after} name={names[0]} records={left.records} clock={clock} />
      <OneSide of={after} other={before} name={names[1]} records={right.records} clock={clock} />
    </>
  );
}

/** A pane as one edition has it. */
function OneSide({
  of,
  other,
  name,
  records,
  clock,
}: {
  of: BesidePane | null;
  other: BesidePane | null;
  name: string;
  records: RecordNames;
  clock: Clock;
}) {
  const title = (of ?? other)?.pane.title || 'Untitled';
  if (!of)
    return (
      <section aria-label={`${title}, ${name}`} className="min-w-0">
        <h2 className="text-body text-muted">{title}</h2>
        <Quiet>{name} does not have it.</Quiet>
      </section>
    );
  const { pane, result } = of;
  return (
    <section aria-label={`${title}, ${name}`} className="min-w-0">
      <h2 className="mb-1 truncate text-body" title={title}>
        {title} <span className="font-normal text-muted md:hidden">{name}</span>
      </h2>
      <StillPane
        pane={pane}
        result={result}
        records={records}
        clock={clock}
        className={lookOf(pane).fills === 'little' ? '' : 'h-80'}
      />
    </section>
  );
}
