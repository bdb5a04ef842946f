import { Link, redirect, useSearchParams } from 'react-router';
import { z } from 'zod';
import type { FoundTable } from '#core/dataset/found.ts';
import { dataSetFromTable, usualChoice } from '#core/dataset/from-table.ts';
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
import { ButtonLink } from '../ui/button.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { Page, Section } from '../ui/page.tsx';
import { Changer } from '../workroom/changes/changer.tsx';
import { SampleTable } from '../workroom/sample-table.tsx';
import { Calls } from '../workroom/source/calls.tsx';
import { Received } from '../workroom/source/received.tsx';
import { Removal } from '../workroom/source/removal.tsx';
import { TableColumns, TableList } from '../workroom/source/tables.tsx';
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
  const chosen = params.get('table');
  const table = tables.find((each) => `${each.schema}.${each.name}` === chosen);
  return (
    <Page
      title={name}
      lead={where}
      wide
      action={
        !isBuiltIn && (
          <div className="flex gap-3">
            <Removal name={name} isUsed={dataSets.length > 0} />
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
          {hasTables && !problem && <TableList tables={tables} chosen={chosen} />}
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
        <div className="flex min-w-0 flex-col gap-8">
          {table ? (
            <div className="flex flex-col gap-8">
              <TableColumns table={table} />
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
          {calls && <Calls {...calls} zone={zone} />}
          {received && <Received received={received} zone={zone} />}
        </div>
      </div>
    </Page>
  );
}
