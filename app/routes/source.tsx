import { useMemo, useState } from 'react';
import { Link, redirect, useFetcher, useSearchParams } from 'react-router';
import { z } from 'zod';
import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { readForm } from '#server/forms.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { type Allowance, allowanceOf, spentByDay } from '#server/sources/budget.ts';
import { openSource, withUnstored } from '#server/sources/open.ts';
import { type SourceTraits, traitsOf } from '#server/sources/traits.ts';
import { note } from '#server/store/audit.ts';
import { intakeState } from '#server/store/intake.ts';
import {
  changerOf,
  findSource,
  removeSource,
  setChanger,
  sourceWithSecret,
  usersOfSource,
} from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import type { ConnectionReport, Trial } from '#sources/kind.ts';
import { kindOf } from '#sources/registry.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import { Changer } from '../workroom/changes/changer.tsx';
import { IntakeHelp } from '../workroom/intake-help.tsx';
import { SampleTable } from '../workroom/sample-table.tsx';
import { ReportView } from '../workroom/source-form.tsx';
import type { Route } from './+types/source';

interface LookedAround {
  id: string;
  name: string;
  traits: SourceTraits;
  where: string;
  /** What testing it found; null for one that is built in. */
  report: ConnectionReport | null;
  /** Of a service: today's calls, how many are allowed, and those of the days before. */
  calls: { allowance: Allowance; perDay: number | null; days: { day: string; spent: number }[] } | null;
  received: Awaited<ReturnType<typeof intakeState>> | null;
  zone: string;
  dataSets: { id: string; name: string }[];
  tables: FoundTable[];
  problem: Problem | null;
  /** Who changes its records; null where nobody may yet. */
  changer: string | null;
  sample: { table: string; tried: Trial | null; problem: Problem | null } | null;
}

function Removal({ name, dataSets }: Pick<LookedAround, 'name' | 'dataSets'>) {
  const fetcher = useFetcher<{ refused?: string }>();
  const isUsed = dataSets.length > 0;
  return (
    <>
      {fetcher.data?.refused && (
        <span role="alert" className="self-center text-small text-slipping">
          {fetcher.data.refused}
        </span>
      )}
      <ConfirmRemove
        what={`“${name}”`}
        goesWith={['Its address and credentials are removed; the service itself is not touched.']}
        onRemove={() => void fetcher.submit({ ask: 'remove' }, { method: 'post' })}
        trigger={
          <Button
            look="quiet"
            disabled={isUsed}
            title={
              isUsed ? 'Data sets are made from it. Remove those first; they are listed below.' : undefined
            }
          >
            Remove
          </Button>
        }
      />
    </>
  );
}

/** What there is in a source: tables, columns, keys, and real records of the table chosen. */
export const loader = guardedLoader(
  to('build'),
  async ({ params, request }: Signed<Route.LoaderArgs>): Promise<LookedAround> => {
    const id = idParam(params.id, 'source');
    const source = await findSource(id);
    if (!source) throw notFound('source');
    const { connection } = source;
    const { perDay, where, page } = kindOf(connection);
    if (page) throw redirect(page);
    const traits = traitsOf(connection);
    const now = new Date();
    const dataSets = await usersOfSource(id);
    const about = {
      id,
      name: source.name,
      traits,
      where: where(connection),
      report: source.report,
      dataSets,
      changer: await changerOf(id),
      zone: await zoneOf(dataSets[0]?.id),
      calls:
        perDay === undefined
          ? null
          : {
              allowance: await allowanceOf(id, now),
              perDay: perDay(connection),
              days: await spentByDay(id),
            },
      received: traits.isMade ? await intakeState(id) : null,
    };
    try {
      const opened = await openSource(id);
      if (!opened.discover) return { ...about, tables: [], problem: null, sample: null };
      const tables = await opened.discover();
      const chosen = new URL(request.url).searchParams.get('table');
      const table = tables.find(({ schema, name }) => `${schema}.${name}` === chosen);
      if (!table || chosen === null) return { ...about, tables, problem: null, sample: null };
      try {
        const { request: tableRequest } = dataSetFromTable(id, table, tables, {
          ...usualChoice(table, tables),
          lookUps: [],
        });
        const tried = await opened.try({
          request: tableRequest,
          inputs: {},
          signal: request.signal,
          limit: 12,
        });
        return { ...about, tables, problem: null, sample: { table: chosen, tried, problem: null } };
      } catch (thrown) {
        return {
          ...about,
          tables,
          problem: null,
          sample: { table: chosen, tried: null, problem: problemOf(thrown, `reading ${chosen}`) },
        };
      }
    } catch (thrown) {
      return { ...about, tables: [], problem: problemOf(thrown, 'looking around'), sample: null };
    }
  },
);

const Body = z.discriminatedUnion('ask', [
  z.object({ ask: z.literal('remove') }),
  z.object({
    ask: z.literal('changer'),
    user: z.string().trim().max(200).default(''),
    secret: z.string().max(1000).default(''),
  }),
  z.object({ ask: z.literal('no changer') }),
]);

/** Removes a source that no data set asks, or says who changes its records. */
export const action = guardedAction(
  to('build'),
  async ({ params, request, user }: Signed<Route.ActionArgs>) => {
    const id = idParam(params.id, 'source');
    const source = await findSource(id);
    if (!source) throw notFound('source');
    const read = readForm(await request.formData(), Body);
    if (read.status !== 'success') return { changer: { problem: null, wrong: 'A user is needed.' } };
    const change = read.value;
    if (change.ask === 'no changer') {
      await setChanger(id, null);
      await note(user.id, 'took away who changes records of a source', source.name);
      return { changer: { problem: null, wrong: null } };
    }
    if (change.ask === 'changer') {
      if (change.user === '' && traitsOf(source.connection).changing?.user)
        return { changer: { problem: null, wrong: 'A user is needed.' } };
      const changer = { user: change.user, secret: change.secret };
      try {
        const known = await sourceWithSecret(id);
        await withUnstored({ ...known, changer }, async ({ changes }) => changes?.test());
      } catch (thrown) {
        return { changer: { problem: problemOf(thrown, 'signing in to change records'), wrong: null } };
      }
      await setChanger(id, changer);
      await note(user.id, 'said who changes records of a source', source.name);
      return { changer: { problem: null, wrong: null } };
    }
    if (!(await removeSource(id))) return { refused: 'A data set has been made from it meanwhile.' };
    await note(user.id, 'removed a source', `${id} ${source.name}`);
    throw redirect('/workroom');
  },
);

export default function Source({ loaderData }: Route.ComponentProps) {
  const {
    id,
    name,
    traits,
    where,
    report,
    dataSets,
    tables,
    problem,
    sample,
    calls,
    received,
    changer,
    zone,
  } = loaderData;
  const { hasTables, isMade, isBuiltIn, changing } = traits;
  const [params] = useSearchParams();
  const [find, setFind] = useState('');
  const chosen = params.get('table');
  const found = useMemo(() => {
    const words = find.toLowerCase().split(/\s+/).filter(Boolean);
    return tables.filter((table) =>
      words.every((word) =>
        `${table.schema}.${table.name} ${table.columns.map((column) => column.name).join(' ')}`
          .toLowerCase()
          .includes(word),
      ),
    );
  }, [find, tables]);
  const table = tables.find((each) => `${each.schema}.${each.name}` === chosen);
  return (
    <Page
      title={name}
      lead={where}
      wide
      action={
        !isBuiltIn && (
          <div className="flex gap-3">
            <Removal name={name} dataSets={dataSets} />
            {!isMade && <ButtonLink to={`/workroom/sources/new?change=${id}`}>Change</ButtonLink>}
            <ButtonLink
              look="main"
              to={`/workroom/data-sets/new?source=${id}${chosen ? `&table=${encodeURIComponent(chosen)}` : ''}`}
            >
              Make a data set
            </ButtonLink>
          </div>
        )
      }
    >
      {problem && <ProblemMessage problem={problem} />}
      <div className="grid gap-10 lg:grid-cols-[20rem_1fr]">
        <div className="flex flex-col gap-6">
          {hasTables && (
            <Section title="What is there">
              <TextField
                label="Find a table or column"
                value={find}
                onChange={(event) => setFind(event.target.value)}
              />
              <ul className="mt-2 max-h-[26rem] overflow-auto">
                {found.map((each) => {
                  const full = `${each.schema}.${each.name}`;
                  return (
                    <li key={full}>
                      <Link
                        to={`?table=${encodeURIComponent(full)}`}
                        preventScrollReset
                        className={`flex min-h-8 items-baseline justify-between gap-3 border-b border-hair px-1 py-1 hover:bg-wash ${full === chosen ? 'bg-wash font-strong' : ''}`}
                        aria-current={full === chosen ? 'true' : undefined}
                      >
                        <span className="truncate">
                          {each.schema !== 'public' && <span className="text-muted">{each.schema}.</span>}
                          {each.name}
                          {each.kind === 'view' && <span className="text-small text-muted"> view</span>}
                        </span>
                        <span className="figures text-small text-muted">
                          {each.about === null ? '' : `about ${formatNumber(String(each.about))}`}
                        </span>
                      </Link>
                    </li>
                  );
                })}
              </ul>
              {found.length === 0 && !problem && <p className="text-muted">Nothing of that name.</p>}
            </Section>
          )}
          {!isMade && report && <ReportView report={report} />}
          {changing && <Changer form={changing} changer={changer} />}
          {dataSets.length > 0 && (
            <Section title="Data sets from it">
              {dataSets.map((dataSet) => (
                <Link
                  key={dataSet.id}
                  to={`/workroom/data-sets/${dataSet.id}`}
                  className="block border-b border-hair py-1.5 hover:text-accent"
                >
                  {dataSet.name}
                </Link>
              ))}
            </Section>
          )}
        </div>
        <div className="min-w-0">
          {table ? (
            <div className="flex flex-col gap-8">
              <Section title={table.name} note={table.comment}>
                <table className="w-full text-left">
                  <thead className="text-small text-slate">
                    <tr>
                      <th scope="col" className="border-b border-hair py-1">
                        Column
                      </th>
                      <th scope="col" className="border-b border-hair py-1">
                        Type
                      </th>
                      <th scope="col" className="border-b border-hair py-1">
                        Points at
                      </th>
                      <th scope="col" className="border-b border-hair py-1">
                        Notes
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {table.columns.map((column) => {
                      const foreign = table.foreignKeys.find(
                        ({ columns }) => columns.length === 1 && columns[0] === column.name,
                      );
                      return (
                        <tr key={column.name} className="border-b border-hair">
                          <td className="py-1 pr-4 font-mono">{column.name}</td>
                          <td className="py-1 pr-4 text-muted">{column.sourceType}</td>
                          <td className="py-1 pr-4">
                            {foreign && (
                              <Link
                                to={`?table=${encodeURIComponent(`${foreign.schema}.${foreign.table}`)}`}
                                className="text-accent hover:underline"
                              >
                                {foreign.table}
                              </Link>
                            )}
                          </td>
                          <td className="py-1 text-small text-muted">
                            {[
                              table.key.includes(column.name) ? 'key' : '',
                              column.mayBeBlank ? 'may be blank' : '',
                              column.comment ?? '',
                            ]
                              .filter(Boolean)
                              .join(' · ')}
                          </td>
                        </tr>
                      );
                    })}
                  </tbody>
                </table>
              </Section>
              <Section title="Some of its records">
                {sample?.problem && <ProblemMessage problem={sample.problem} />}
                {sample?.tried && <SampleTable tried={sample.tried} zone={zone} />}
              </Section>
            </div>
          ) : hasTables ? (
            <p className="pt-2 text-lead text-muted">
              Choose a table to see its columns and some real records.
            </p>
          ) : (
            !isMade &&
            !calls && (
              <p className="pt-2 text-lead text-muted">
                {isBuiltIn
                  ? 'What people note of records comes among their fields where the data set says so, on its page Changes.'
                  : 'Make a data set to look around in it: its records are shown before anything is saved.'}
              </p>
            )
          )}
          {calls && <Calls {...calls} />}
          {received && <ReceivedView received={received} />}
        </div>
      </div>
    </Page>
  );
}

/** What a service has been asked today and before, against what is allowed. */
function Calls({ allowance, perDay, days }: NonNullable<LookedAround['calls']>) {
  const { spent, leftThere, pausedUntil } = allowance;
  const left = perDay === null ? null : Math.max(0, perDay - spent);
  return (
    <Section title="Calls" note="Counted over all processes; a day begins at midnight (UTC).">
      <p className="text-lead">
        <span className="figures font-strong">{formatNumber(String(spent))}</span> today
        {left !== null && (
          <>
            , <span className="figures font-strong">{formatNumber(String(left))}</span> left of{' '}
            <span className="figures">{formatNumber(String(perDay))}</span>
          </>
        )}
        {leftThere !== null && (
          <span className="text-muted"> · the service says {formatNumber(String(leftThere))} are left</span>
        )}
      </p>
      {pausedUntil && (
        <p className="text-small text-slipping">
          The service asked for no calls before {pausedUntil.slice(0, 19).replace('T', ' ')} UTC.
        </p>
      )}
      <table className="mt-3 w-full max-w-xs">
        <tbody>
          {days.map(({ day, spent: of }) => (
            <tr key={day} className="border-b border-hair">
              <td className="py-1">{day}</td>
              <td className="figures py-1 text-right">{formatNumber(String(of))}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

function ReceivedView({ received }: { received: NonNullable<LookedAround['received']> }) {
  return (
    <div className="flex flex-col gap-6">
      <Section title="What was received" note="Kept for a week here; data sets keep what they take from it.">
        <p className="text-lead">
          {received.lastAt ? (
            <>
              <span className="figures font-strong">{formatNumber(String(received.records))}</span> records,
              the latest at {received.lastAt.slice(0, 19).replace('T', ' ')} UTC
            </>
          ) : (
            'Nothing yet.'
          )}
        </p>
      </Section>
      <Section title="How to send">
        <IntakeHelp />
      </Section>
    </div>
  );
}
