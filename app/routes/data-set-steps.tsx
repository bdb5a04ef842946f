import { withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import { allDataSets, type StoredDataSet } from '#server/store/data-sets.ts';
import { listSources } from '#server/store/sources.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Page } from '../ui/page.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import { StepsPage } from '../workroom/steps/steps-page.tsx';
import type { Route } from './+types/data-set-steps';

interface Loaded {
  stored: StoredDataSet;
  sourceName: string;
  others: { id: string; name: string; definition: DataSet }[];
  zone: string;
}

/** The steps of a data set, and the data sets that they could refer to, without how those are asked. */
export const loader = guardedLoader(
  to('build'),
  async ({ params }: Signed<Route.LoaderArgs>): Promise<Loaded> => {
    const id = idParam(params.id, 'data set');
    const [all, zone, sources] = await Promise.all([allDataSets(), zoneOf(id), listSources()]);
    const stored = all.find((each) => each.id === id);
    if (!stored) throw notFound('data set');
    const world = new Map(all.map((each) => [each.id, each.definition]));
    const { request } = stored.definition;
    const of = request.kind === 'of' ? all.find((each) => each.id === request.dataSet)?.name : undefined;
    return {
      stored: { ...stored, definition: withOutcome(stored.definition, world) },
      sourceName:
        of ?? sources.find((source) => source.id === stored.definition.source)?.name ?? 'its source',
      others: all.map(({ id: each, name, definition: { steps: _, checks: __, ...definition } }) => ({
        id: each,
        name,
        definition: { ...definition, measures: [], request: { kind: 'upload', columns: [] } },
      })),
      zone,
    };
  },
);

export default function DataSetSteps({ loaderData }: Route.ComponentProps) {
  const { stored } = loaderData;
  return (
    <Page title={stored.name} wide>
      <DataSetNav id={stored.id} isKept={stored.definition.keep !== undefined} />
      <StepsPage key={stored.id} {...loaderData} />
    </Page>
  );
}
