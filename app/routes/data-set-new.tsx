import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import type { FoundTable } from '#core/dataset/found.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { guardedLoader, type Signed, to } from '#server/guard.ts';
import { openSource } from '#server/sources/open.ts';
import { noTraits, type SourceTraits, traitsOf } from '#server/sources/traits.ts';
import { type FieldChoice, fieldChoices, findDataSet, type StoredDataSet } from '#server/store/data-sets.ts';
import { findSource, isBuiltIn, listSources } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Page } from '../ui/page.tsx';
import { DataSetEditor } from '../workroom/data-set-editor.tsx';
import { SourceChoice } from '../workroom/source-choice.tsx';
import type { Route } from './+types/data-set-new';

interface Start {
  id: string;
  sources: { id: string; name: string }[];
  source: string | null;
  traits: SourceTraits;
  table: string | null;
  tables: FoundTable[];
  problem: Problem | null;
  zone: string;
  choices: FieldChoice[];
  /** Made of another data set: its records, to which steps are added. */
  of: { name: string; definition: DataSet } | null;
}

export const loader = guardedLoader(
  to('build'),
  async ({ request }: Signed<Route.LoaderArgs>): Promise<Start> => {
    const params = new URL(request.url).searchParams;
    const sources = (await listSources())
      .filter(({ connection }) => !isBuiltIn(connection))
      .map(({ id, name }) => ({ id, name }));
    const ofId = z.uuid().safeParse(params.get('of'));
    const of = ofId.success ? await findDataSet(ofId.data) : null;
    const wanted =
      of?.definition.source ?? params.get('source') ?? (sources.length === 1 ? sources[0]?.id : undefined);
    const source = wanted && z.uuid().safeParse(wanted).success ? await findSource(wanted) : null;
    const start = {
      id: randomUUID(),
      sources,
      source: source?.id ?? null,
      traits: source ? traitsOf(source.connection) : noTraits,
      table: params.get('table'),
      tables: [],
      problem: null,
      zone: await zoneOf(),
      choices: await fieldChoices(),
      of: of && { name: `${of.name}, shaped`, definition: madeOf(of) },
    };
    if (!source || of) return start;
    try {
      const { discover } = await openSource(source.id);
      return { ...start, tables: discover ? await discover() : [] };
    } catch (thrown) {
      return { ...start, problem: problemOf(thrown, `looking around ${source.name}`) };
    }
  },
);

/** A data set that begins as another one is: its fields and measures, asked of it each time. */
function madeOf({ id, definition }: StoredDataSet): DataSet {
  const { keep: _, fresh: __, steps: ___, start: ____, subsets: _____, checks: ______, ...rest } = definition;
  return { ...rest, request: { kind: 'of', dataSet: id, columns: [] }, inputs: [] };
}

export default function DataSetNew({ loaderData }: Route.ComponentProps) {
  const { id, sources, source, traits, table, tables, problem, zone, of, choices } = loaderData;
  return (
    <Page
      title="Make a data set"
      lead="Records with names that readers know, tried on the source before anything is saved."
      wide
    >
      {source ? (
        <DataSetEditor
          key={`${source} ${table} ${of?.name}`}
          id={id}
          source={source}
          traits={traits}
          tables={tables}
          problem={problem}
          startTable={table}
          stored={null}
          begun={of}
          zone={zone}
          choices={choices}
        />
      ) : (
        <SourceChoice sources={sources} />
      )}
    </Page>
  );
}
