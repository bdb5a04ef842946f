import { guardedLoader, idParam, notFound, type Signed, to } from '#server/guard.ts';
import type { StoredCheck } from '#server/store/checks.ts';
import { checksOf } from '#server/store/checks.ts';
import { findDataSet, type StoredDataSet } from '#server/store/data-sets.ts';
import { zoneOf } from '#server/store/zone.ts';
import { Page } from '../ui/page.tsx';
import { DataSetNav } from '../workroom/data-set-nav.tsx';
import { RulesPage } from '../workroom/rules-page.tsx';
import type { Route } from './+types/data-set-rules';

interface Loaded {
  stored: StoredDataSet;
  results: StoredCheck[];
  zone: string;
}

/** The subsets of a data set, and what is expected of its records. */
export const loader = guardedLoader(
  to('build'),
  async ({ params }: Signed<Route.LoaderArgs>): Promise<Loaded> => {
    const id = idParam(params.id, 'data set');
    const [stored, results, zone] = await Promise.all([findDataSet(id), checksOf([id]), zoneOf(id)]);
    if (!stored) throw notFound('data set');
    return { stored, results, zone };
  },
);

export default function DataSetRules({ loaderData }: Route.ComponentProps) {
  const { stored } = loaderData;
  return (
    <Page title={stored.name} lead={`One record for each ${stored.definition.noun.one}.`} wide>
      <DataSetNav id={stored.id} isKept={stored.definition.keep !== undefined} />
      <RulesPage key={stored.id} {...loaderData} />
    </Page>
  );
}
