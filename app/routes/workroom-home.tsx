import { useState } from 'react';
import { Link } from 'react-router';
import { counted } from '#core/value/format/counted.ts';
import { formatMoment, formatNumber } from '#core/value/format/format.ts';
import { guardedLoader, to } from '#server/guard.ts';
import { desksOf } from '#server/people/desks-of.ts';
import { spentToday } from '#server/sources/budget.ts';
import { menuOf } from '#server/store/dashboards.ts';
import { listDataSets } from '#server/store/data-sets.ts';
import { keptOf } from '#server/store/kept.ts';
import { listSources } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import type { Connection } from '#sources/connection.ts';
import { kindOf } from '#sources/registry.ts';
import { ButtonLink } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { Page, Section } from '../ui/page.tsx';
import { SkipLink } from '../ui/skip-link.tsx';
import type { Route } from './+types/workroom-home';

export const loader = guardedLoader<Route.LoaderArgs, Promise<Home>>(to('build'), async ({ user }) => {
  const [desks, sources, dataSets, spent, zone] = await Promise.all([
    desksOf(user, 'build'),
    listSources(),
    listDataSets(),
    spentToday(new Date()),
    zoneOf(),
  ]);
  const [kept, menus] = await Promise.all([
    keptOf(dataSets.map(({ id }) => id)),
    Promise.all(desks.map(({ id }) => menuOf(id, false))),
  ]);
  return {
    zone,
    now: new Date().toISOString(),
    desks: desks.map(({ slug, name }, at) => ({ slug, name, dashboards: menus[at] ?? [] })),
    sources: sources.map(({ id, name, connection, report }) => ({
      id,
      name,
      where: kindOf(connection).where(connection),
      testedAt: report?.at ?? null,
      dataSets: dataSets.filter(({ sourceId }) => sourceId === id).length,
      calls: callsOf(connection, spent.get(id) ?? 0),
    })),
    dataSets: dataSets.map((dataSet) => ({ ...dataSet, kept: kept.get(dataSet.id) ?? null })),
  };
});

/** Of a source whose calls are counted: those of today, and how many are allowed. */
function callsOf(connection: Connection, spent: number): { spent: number; perDay: number | null } | null {
  const { perDay } = kindOf(connection);
  return perDay ? { spent, perDay: perDay(connection) } : null;
}

interface Home {
  zone: string;
  /** ISO 8601. */
  now: string;
  desks: { slug: string; name: string; dashboards: Awaited<ReturnType<typeof menuOf>> }[];
  sources: {
    id: string;
    name: string;
    where: string;
    testedAt: string | null;
    /** How many data sets are made of it. */
    dataSets: number;
    /** Of a service: today's calls, and how many a day may have. */
    calls: { spent: number; perDay: number | null } | null;
  }[];
  dataSets: (Awaited<ReturnType<typeof listDataSets>>[number] & {
    kept: { records: number; trueAt: string } | null;
  })[];
}

const number = (value: number): string => formatNumber(String(value));

/** Today's calls of a service, and how many are left where there is an allowance. */
const callWords = ({ spent, perDay }: { spent: number; perDay: number | null }): string =>
  perDay === null
    ? `${counted(spent, 'call')} today`
    : `${counted(spent, 'call')} today, ${number(Math.max(0, perDay - spent))} left of ${number(perDay)}`;

const row = 'grid grid-cols-[1fr_auto] items-baseline gap-x-4 gap-y-0.5 border-b border-hair py-2';
const name = 'min-w-0 truncate font-strong hover:text-accent';

export default function WorkroomHome({ loaderData }: Route.ComponentProps) {
  const { desks, sources, dataSets, ...at } = loaderData;
  // Moments of this page say no year where it is this one.
  const zone = { zone: at.zone, now: new Date(at.now) };
  const [find, setFind] = useState('');
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const found = dataSets.filter((dataSet) =>
    words.every((word) => `${dataSet.name} ${dataSet.source}`.toLowerCase().includes(word)),
  );
  const groups = [...new Set(found.map(({ source }) => source))].sort((a, b) => a.localeCompare(b, 'en'));
  return (
    <Page title="Workroom" lead="From where the records are, to what your readers see.">
      <SkipLink to="data-sets">Skip to the data sets</SkipLink>
      <SkipLink to="dashboards">Skip to the dashboards</SkipLink>
      <div className="grid gap-x-12 gap-y-8 lg:grid-cols-3">
        <Section title="Sources" action={<ButtonLink to="/workroom/sources/new">Add a source</ButtonLink>}>
          {sources.map((source) => (
            <div key={source.id} className={row}>
              <Link to={`/workroom/sources/${source.id}`} className={name}>
                {source.name}
              </Link>
              <span className="text-small text-muted">
                {source.testedAt && `tested ${formatMoment(source.testedAt, zone)}`}
              </span>
              <span className="min-w-0 truncate text-small text-muted" title={source.where}>
                {source.where}
              </span>
              <span className="figures text-right text-small text-muted">
                {source.dataSets === 0 ? 'not used yet' : counted(source.dataSets, 'data set')}
              </span>
              {source.calls && (
                <span className="figures col-span-2 text-small text-muted">{callWords(source.calls)}</span>
              )}
            </div>
          ))}
          {sources.length === 0 && <p className="text-muted">None yet. Records come in from a source.</p>}
        </Section>
        <Section
          id="data-sets"
          title="Data sets"
          action={sources.length > 0 && <ButtonLink to="/workroom/data-sets/new">Make a data set</ButtonLink>}
        >
          {dataSets.length > 8 && (
            <TextField
              label="Find a data set"
              value={find}
              onChange={(event) => setFind(event.target.value)}
            />
          )}
          {groups.map((group) => (
            <section key={group} className="mt-3" aria-label={`From ${group}`}>
              <h3 className="border-b border-line pb-1 text-small text-slate">From {group}</h3>
              {found
                .filter(({ source }) => source === group)
                .map((dataSet) => (
                  <div key={dataSet.id} className={row}>
                    <Link to={`/workroom/data-sets/${dataSet.id}`} className={name}>
                      {dataSet.name}
                    </Link>
                    <span className="text-small text-muted">{counted(dataSet.fields, 'field')}</span>
                    {dataSet.kept && (
                      <span className="figures col-span-2 truncate text-small text-muted">
                        {formatNumber(String(dataSet.kept.records))} kept, as of{' '}
                        {formatMoment(dataSet.kept.trueAt, zone)}
                      </span>
                    )}
                  </div>
                ))}
            </section>
          ))}
          {found.length === 0 && dataSets.length > 0 && <p className="mt-3 text-muted">None of that name.</p>}
          {dataSets.length === 0 && (
            <p className="text-muted">None yet. A data set is records with names that readers know.</p>
          )}
        </Section>
        <Section
          id="dashboards"
          title="Dashboards"
          action={
            dataSets.length > 0 && <ButtonLink to="/workroom/dashboards/new">Start a dashboard</ButtonLink>
          }
        >
          {desks.map((desk) => (
            <DeskDashboards key={desk.slug} desk={desk} isNamed={desks.length > 1} />
          ))}
          {desks.every(({ dashboards }) => dashboards.length === 0) && (
            <p className="text-muted">None yet.</p>
          )}
        </Section>
      </div>
    </Page>
  );
}

/** The dashboards of a desk, published or not, under its name where there are several desks. */
function DeskDashboards({ desk, isNamed }: { desk: Home['desks'][number]; isNamed: boolean }) {
  if (desk.dashboards.length === 0 && !isNamed) return null;
  return (
    <section className={isNamed ? 'mt-3' : ''} aria-label={`On ${desk.name}`}>
      <h3
        className={
          isNamed ? 'flex justify-between border-b border-line pb-1 text-small text-slate' : 'sr-only'
        }
      >
        On {desk.name}
      </h3>
      {desk.dashboards.map((dashboard) => (
        <div key={dashboard.id} className={row}>
          <Link to={`/workroom/dashboards/${dashboard.id}`} className={name}>
            {dashboard.title}
          </Link>
          <span className="text-small text-muted">
            {dashboard.published ? 'published' : 'not published yet'}
          </span>
        </div>
      ))}
      {desk.dashboards.length > 1 && (
        <Link
          to={`/workroom/menu/${desk.slug}`}
          className="mt-2 inline-block text-small text-accent hover:underline"
        >
          Arrange the menu
        </Link>
      )}
    </section>
  );
}
