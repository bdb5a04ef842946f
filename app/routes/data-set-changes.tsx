import { lineActions } from '#core/change/lines.ts';
import { neededIds } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { showsFollowUps } from '#server/change/show-follow-ups.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { allDataSets, findDataSet, findDataSets, type StoredDataSet } from '#server/store/data-sets.ts';
import { listGroups } from '#server/store/groups.ts';
import { changerOf, findSource } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import { kindOf } from '#sources/registry.ts';
import { Page } from '../ui/page.tsx';
import type { OfferedLines } from '../workroom/changes/action-form.tsx';
import { ChangesPage } from '../workroom/changes/changes-page.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import type { Route } from './+types/data-set-changes';

interface Loaded {
  stored: StoredDataSet;
  others: [string, DataSet][];
  source: { id: string; name: string; takesChanges: boolean; changer: string | null } | null;
  zone: string;
  /** What people noted of its records is among its fields. */
  showsFollowUps: boolean;
  /** The names of groups that actions can be for. */
  groups: string[];
  lines: OfferedLines;
}

/** What people may do to the records of a data set. */
export const loader = guardedLoader(
  to('build'),
  async ({ params }: Signed<Route.LoaderArgs>): Promise<Loaded> => {
    const id = idParam(params.id, 'data set');
    const [stored, zone] = await Promise.all([findDataSet(id), zoneOf(id)]);
    if (!stored) throw notFound('data set');
    const sourceId = stored.definition.source;
    const [source, changer, others, isShown, groups] = await Promise.all([
      findSource(sourceId),
      changerOf(sourceId),
      allDataSets(),
      showsFollowUps(id, stored.definition),
      listGroups(),
    ]);
    const kind = source && kindOf(source.connection);
    const added = others.filter(
      (each) =>
        each.id !== id && each.definition.source === sourceId && lineActions(each.definition).length > 0,
    );
    // What the definitions of these have to know, too.
    const world = await findDataSets([...neededIds(stored.definition), ...added.map((each) => each.id)]);
    return {
      stored,
      zone,
      others: [...world],
      lines: { as: kind?.linesAs ?? null, dataSets: added },
      showsFollowUps: isShown,
      groups: groups.map(({ name }) => name),
      source: source && {
        id: sourceId,
        name: source.name,
        takesChanges: kind?.changing !== null,
        changer,
      },
    };
  },
);

export default function DataSetChanges({ loaderData }: Route.ComponentProps) {
  const { stored } = loaderData;
  return (
    <Page title={stored.name} lead={`One record for each ${stored.definition.noun.one}.`} wide>
      <DataSetNav id={stored.id} isKept={stored.definition.keep !== undefined} />
      <ChangesPage key={stored.id} {...loaderData} />
    </Page>
  );
}
