import type { Asker } from '#core/ask/condition/resolve.ts';
import { isRuled } from '#core/dataset/is-ruled.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import { relationAsRead } from '#core/plan/relation.ts';
import type { Clock } from '#core/value/period/period.ts';
import { runPlan } from '../records/run.ts';
import { findDataSets } from '../store/data-sets.ts';

/** A record by the data set that shows it and its key. */
interface Keyed {
  readonly dataSetId: string;
  readonly key: string;
}

/**
 * Of what is said about records, that of records which somebody may see. What stands in our own database says names and keys of records
 * too, so it is held to the same rules; where that cannot be found out, it is left out.
 */
export async function withinSight<T extends Keyed>(
  list: readonly T[],
  { asker, clock }: { readonly asker: Asker; readonly clock: Clock },
  signal: AbortSignal,
): Promise<T[]> {
  if (asker.seesAll || list.length === 0) return [...list];
  const ids = [...new Set(list.map(({ dataSetId }) => dataSetId))];
  const world = await findDataSets(ids);
  const seen = new Map(
    await Promise.all(
      ids
        .filter((id) => isRuled(id, world))
        .map(async (id) => {
          const keys = list.filter(({ dataSetId }) => dataSetId === id).map(({ key }) => key);
          return [id, await keysInSight(id, keys, world, { asker, clock }, signal)] as const;
        }),
    ),
  );
  return list.filter(({ dataSetId, key }) => seen.get(dataSetId)?.has(key) ?? true);
}

async function keysInSight(
  id: string,
  keys: readonly string[],
  world: ReadonlyMap<string, DataSet>,
  { asker, clock }: { readonly asker: Asker; readonly clock: Clock },
  signal: AbortSignal,
): Promise<ReadonlySet<string>> {
  const dataSet = world.get(id);
  if (dataSet?.key === undefined) return new Set();
  try {
    const plan: RecordsPlan = {
      kind: 'records',
      from: relationAsRead(dataSet, id, { world, clock, person: asker }),
      zone: clock.zone,
      where: { field: dataSet.key, test: { op: 'is', values: [...keys] } },
      fields: [dataSet.key],
      order: [],
      key: dataSet.key,
      offset: 0,
      limit: keys.length,
    };
    const { records } = await runPlan(plan, { doing: 'looking which records are yours', signal });
    return new Set(records.map(([key]) => String(key)));
  } catch {
    return new Set();
  }
}
