import { useMemo } from 'react';
import { Link } from 'react-router';
import type { FoundTable } from '#core/dataset/found.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { usesOfMeasure } from '#core/lineage/uses.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { allDrafts } from '#server/lineage/rename.ts';
import { openSource } from '#server/sources/open.ts';
import { noTraits, type SourceTraits, traitsOf } from '#server/sources/traits.ts';
import {
  type FieldChoice,
  fieldChoices,
  findDataSet,
  type StoredDataSet,
  usersOfDataSet,
  worldOf,
} from '#server/store/data-sets.ts';
import { findSource, isBuiltIn } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ExportLinks } from '../ui/export-links.tsx';
import { here } from '../ui/here.ts';
import { Page, Section } from '../ui/page.tsx';
import { Popover } from '../ui/popover.tsx';
import { DataSetEditor } from '../workroom/data-set-editor.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import type { Route } from './+types/data-set';

interface Loaded {
  stored: StoredDataSet;
  traits: SourceTraits;
  tables: FoundTable[];
  problem: Problem | null;
  zone: string;
  users: Awaited<ReturnType<typeof usersOfDataSet>>;
  others: [string, DataSet][];
  choices: FieldChoice[];
  /** The panes that show each measure, in words. */
  uses: Record<string, string[]>;
}

export const loader = guardedLoader(
  to('build'),
  async ({ params }: Signed<Route.LoaderArgs>): Promise<Loaded> => {
    const id = idParam(params.id, 'data set');
    const [stored, users, zone, drafts, choices] = await Promise.all([
      findDataSet(id),
      usersOfDataSet(id),
      zoneOf(id),
      allDrafts(),
      fieldChoices(),
    ]);
    if (!stored) throw notFound('data set');
    const world = await worldOf(stored.definition);
    const source = await findSource(stored.definition.source);
    const about = {
      stored,
      users,
      uses: Object.fromEntries(
        stored.definition.measures.flatMap(({ name }) => {
          const uses = usesOfMeasure(id, name, drafts).map(({ at }) => at);
          return uses.length > 0 ? [[name, uses]] : [];
        }),
      ),
      others: [...world],
      choices: choices.filter((each) => each.id !== id),
      traits: source ? traitsOf(source.connection) : noTraits,
      zone,
      tables: [],
      problem: null,
    };
    if (!source || isBuiltIn(source.connection)) return about;
    try {
      const { discover } = await openSource(stored.definition.source);
      return { ...about, tables: discover ? await discover() : [] };
    } catch (thrown) {
      return { ...about, problem: problemOf(thrown, `looking around the source of “${stored.name}”`) };
    }
  },
);

export default function DataSetPage({ loaderData }: Route.ComponentProps) {
  const { stored, traits, tables, problem, users, uses, zone, others, choices } = loaderData;
  const world = useMemo(() => new Map(others), [others]);
  return (
    <Page
      title={stored.name}
      lead={`One record for each ${stored.definition.noun.one}.`}
      action={
        <div className="flex gap-3">
          <ButtonLink to={`/workroom/dashboards/new?of=${stored.id}`}>Propose a dashboard</ButtonLink>
          <ButtonLink to={`/workroom/data-sets/new?of=${stored.id}`}>New data set from this one</ButtonLink>
          <Popover label="Download" trigger={<Button>Download</Button>}>
            <ExportLinks
              what={`All ${stored.definition.noun.many} with all fields`}
              hrefOf={(format) => `/workroom/data-sets/${stored.id}/export?as=${format}`}
            />
            <a
              href={here(`/workroom/definitions/file?data-set=${stored.id}`)}
              download
              className="mt-2 block border-t border-hair pt-2 text-accent hover:underline"
            >
              Its definition, as a file
            </a>
          </Popover>
        </div>
      }
      wide
    >
      <DataSetNav id={stored.id} isKept={stored.definition.keep !== undefined} />
      <DataSetEditor
        key={stored.id}
        id={stored.id}
        source={stored.definition.source}
        traits={traits}
        tables={tables}
        problem={problem}
        startTable={null}
        stored={stored}
        zone={zone}
        world={world}
        uses={uses}
        choices={choices}
      />
      <div className="mt-10 max-w-xl">
        <Section title="What uses it" note="Readers keep what was published until it is published again.">
          {users.map(({ id, title, panes }) => (
            <p key={id} className="border-b border-hair py-1.5">
              <Link to={`/workroom/dashboards/${id}`} className="font-strong hover:text-accent">
                {title}
              </Link>{' '}
              <span className="text-muted">{panes.filter(Boolean).join(', ')}</span>
            </p>
          ))}
          {users.length === 0 && <p className="text-muted">No dashboard yet.</p>}
        </Section>
      </div>
    </Page>
  );
}
