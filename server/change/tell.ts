import { oneTable } from '#core/dataset/one-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { followUpsConnection } from '#sources/follow-ups/connection.ts';
import { dataChanged } from '../store/data-changed.ts';
import { allDataSets, type StoredDataSet } from '../store/data-sets.ts';
import { noteChangedRecords } from '../store/due.ts';
import { placeOfRecords } from '../store/record-place.ts';
import { findBuiltInSource, noteChanged } from '../store/sources.ts';

/**
 * Whether a data set may show records that were changed: it reads or looks up their table, or asks in words of its own that nobody can tell,
 * as every call of a service does.
 */
function mayShow({ source, request }: DataSet, of: DataSet): boolean {
  if (source !== of.source) return false;
  const changed = oneTable(of.request);
  const own = oneTable(request);
  if (!changed || !own) return true;
  return [own, ...own.lookUps].some(
    ({ schema, table }) => schema === changed.schema && table === changed.table,
  );
}

/** A data set whose records were changed. */
export interface ChangedSet {
  readonly id: string;
  readonly dataSet: DataSet;
}

/** Tells every open page that shows one of these data sets, or what is made of them; kept records are fetched again. */
async function tell(
  dataSetIds: readonly string[],
  source: string,
  isShowing: (stored: StoredDataSet) => boolean,
  known?: readonly StoredDataSet[],
): Promise<void> {
  await noteChanged(source);
  const showing = (known ?? (await allDataSets())).filter(isShowing);
  for (const { id, definition } of showing) if (definition.keep) await noteChangedRecords(id);
  await dataChanged([...new Set([...dataSetIds, ...showing.map(({ id }) => id)])]);
}

/** Tells every open page that the records of data sets of one source are others now, whatever data set they are shown through. */
export const tellOf = (...changed: readonly [ChangedSet, ...ChangedSet[]]): Promise<void> =>
  tell(
    changed.map(({ id }) => id),
    changed[0].dataSet.source,
    ({ id, definition }) => changed.some((each) => id === each.id || mayShow(definition, each.dataSet)),
  );

/** The data sets whose records are followed up as those of one are: the same wherever they are shown. */
async function followedUpAs(id: string, all: readonly StoredDataSet[]): Promise<string[]> {
  const byId = new Map(all.map((each) => [each.id, each]));
  const find = async (of: string) => byId.get(of) ?? null;
  const places = new Map<string, string>();
  for (const each of all)
    if (each.id === id || each.definition.followUp)
      places.set(each.id, await placeOfRecords(each.id, each.definition, find));
  return [...places].filter(([, place]) => place === places.get(id)).map(([each]) => each);
}

/** Tells every open page that somebody noted something of a record: those that show it, and those that show what was noted. */
export async function tellOfFollowUp(dataSetId: string): Promise<void> {
  const source = await findBuiltInSource(followUpsConnection);
  const all = await allDataSets();
  const same = await followedUpAs(dataSetId, all);
  if (source === null) return dataChanged(same);
  return tell(same, source, ({ definition }) => definition.source === source, all);
}
