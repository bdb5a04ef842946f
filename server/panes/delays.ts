import { type Context, usedDataSets } from '#core/dashboard/flow/context.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import type { LateChange } from '#core/words/late-change.ts';
import type { Outage } from '#core/words/outage.ts';
import { changesToCome } from '../store/due.ts';
import { silentSources } from '../store/outages.ts';

/** What keeps a dashboard from showing how things are: sources that do not answer, and changes that kept records do not have yet. */
export interface Delays {
  readonly outages: readonly Outage[];
  readonly changes: readonly LateChange[];
}

export async function delaysOf(context: Context): Promise<Delays> {
  const [outages, changes] = await Promise.all([outagesOf(context), lateChangesOf(context)]);
  return { outages, changes };
}

/** The changes that are not in what a dashboard shows yet. */
async function lateChangesOf({ dashboard, dataSets }: Context): Promise<LateChange[]> {
  const used = usedDataSets(dashboard);
  const origins = new Map(used.map((id) => [id, comesFrom(id, dataSets)]));
  const late = await changesToCome([...new Set([...origins.values()].flatMap((each) => [...each]))]);
  return late.map(({ id, at }) => ({
    at,
    many: used
      .filter((each) => origins.get(each)?.has(id))
      .flatMap((each) => dataSets.get(each)?.noun.many ?? []),
  }));
}

/** The sources of what a dashboard shows that do not answer, with the data sets shown that are old because of it. */
export async function outagesOf({ dashboard, dataSets }: Context): Promise<Outage[]> {
  const used = usedDataSets(dashboard);
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
