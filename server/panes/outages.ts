import { type Context, usedDataSets } from '#core/dashboard/flow/context.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import type { Outage } from '#core/words/outage.ts';
import { silentSources } from '../store/outages.ts';

/** The sources of what a dashboard shows that do not answer, with the data sets shown that are old because of it. */
export async function outagesOf({ dashboard, dataSets }: Context): Promise<Outage[]> {
  const used = [...new Set(usedDataSets(dashboard))];
  const origins = new Map(
    used.map((id) => [
      id,
      new Set([...comesFrom(id, dataSets)].flatMap((each) => dataSets.get(each)?.source || [])),
    ]),
  );
  const silent = await silentSources([...new Set([...origins.values()].flatMap((each) => [...each]))]);
  return silent.map(({ id, name, since }) => ({
    source: name,
    since,
    dataSets: used
      .filter((each) => origins.get(each)?.has(id))
      .flatMap((each) => {
        const dataSet = dataSets.get(each);
        return dataSet ? [{ id: each, many: dataSet.noun.many }] : [];
      }),
  }));
}
