import { useMemo } from 'react';
import { Link } from 'react-router';
import { z } from 'zod';
import type { FoundTable } from '#core/dataset/found.ts';
import { startOf } from '#core/dataset/outcome.ts';
import { DataSet } from '#core/dataset/schema.ts';
import { usesOfMeasure } from '#core/lineage/uses.ts';
import { type Problem, problemOf } from '#core/value/problem/problem.ts';
import { runChecks } from '#server/checks/run.ts';
import { refuseEdit, type SaveAnswer, saveAnswer, settledDataSet } from '#server/edit.ts';
import { guardedAction, guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { allDrafts } from '#server/lineage/rename.ts';
import { askerOf } from '#server/people/asker.ts';
import { severalMatches } from '#server/shape/look-up.ts';
import { openSource } from '#server/sources/open.ts';
import { noTraits, type SourceTraits, traitsOf } from '#server/sources/traits.ts';
import { note } from '#server/store/audit.ts';
import {
  type FieldChoice,
  fieldChoices,
  findDataSet,
  type StoredDataSet,
  saveDataSet,
  usersOfDataSet,
  worldOf,
} from '#server/store/data-sets.ts';
import { askForRefresh } from '#server/store/kept.ts';
import type { User } from '#server/store/people.ts';
import { findSource, isBuiltIn } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Button, ButtonLink } from '../ui/button.tsx';
import { ExportLinks } from '../ui/export-links.tsx';
import { Page, Section } from '../ui/page.tsx';
import { Popover } from '../ui/popover.tsx';
import { DataSetEditor } from '../workroom/data-set-editor.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import { saveOrStay } from '../workroom/save-or-stay.ts';
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

const Body = z.object({
  name: z.string().trim().min(1, 'a name is needed').max(500),
  definition: DataSet,
  revision: z.int(),
});

export const action = guardedAction(
  to('build'),
  async ({ params, request, user }: Signed<Route.ActionArgs>): Promise<SaveAnswer> => {
    const id = idParam(params.id, 'data set');
    const body = Body.safeParse(await request.json().catch(() => null));
    if (!body.success) return refuseEdit(body.error);
    const settled = await settledDataSet(id, body.data.definition);
    if ('wrong' in settled) return settled.wrong;
    const { definition } = settled;
    const before = await findDataSet(id);
    const several = await newlySeveral(id, before?.definition, definition, user, request.signal);
    if (several.length > 0) return { state: 'refused', why: several };
    const saved = await saveDataSet({ id, ...body.data, definition, by: user.id });
    if (saved.ok) {
      await note(user.id, 'saved a data set', body.data.name);
      if (before && asksOtherwise(before.definition, definition)) await askForRefresh(id);
      else await runChecks({ id, definition, now: new Date() });
    }
    return saveAnswer(saved, ['The data set was saved with other fields, measures or names.']);
  },
);

export const clientAction = ({ serverAction }: Route.ClientActionArgs) => saveOrStay(serverAction);

/** Look-ups that find several where one was asked for, if the steps are others than before. */
async function newlySeveral(
  id: string,
  before: DataSet | undefined,
  definition: DataSet,
  person: User,
  signal: AbortSignal,
): Promise<string[]> {
  if (JSON.stringify(before?.steps) === JSON.stringify(definition.steps)) return [];
  const [world, zone] = await Promise.all([worldOf(definition), zoneOf(id)]);
  const clock = { now: new Date(), zone };
  return severalMatches({ id, definition, world, clock, person: askerOf(person), signal });
}

/** Whether kept records have to be fetched again: steps, words and measures are worked out over those there are. */
const asksOtherwise = (before: DataSet, after: DataSet): boolean =>
  after.keep !== undefined &&
  after.request.kind !== 'upload' &&
  JSON.stringify([before.request, before.keep, startOf(before).map(({ name, type }) => [name, type])]) !==
    JSON.stringify([after.request, after.keep, startOf(after).map(({ name, type }) => [name, type])]);

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
              href={`/workroom/definitions/file?data-set=${stored.id}`}
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
