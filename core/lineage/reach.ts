import { refsOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';

/* Which data sets lead to which, however far. Pure: over definitions by id. */

type Definitions = ReadonlyMap<string, Pick<DataSet, 'request' | 'steps' | 'inputs'>>;

function reached(start: string, next: (id: string) => readonly string[]): Set<string> {
  const found = new Set([start]);
  // What is added while it is gone through is gone through too.
  for (const id of found) for (const each of next(id)) found.add(each);
  return found;
}

const refs = (id: string, dataSets: Definitions): string[] => {
  const dataSet = dataSets.get(id);
  return dataSet ? refsOf(dataSet).map(({ dataSet: ref }) => ref) : [];
};

/** A data set and all that it is made of or refers to. */
export const comesFrom = (id: string, dataSets: Definitions): Set<string> =>
  reached(id, (each) => refs(each, dataSets));

/**
 * For each data set, those among some that show its records: themselves, and those that are made of it or look it up, however
 * far. What a change of the one has to be told to.
 */
export function followersOf(ids: Iterable<string>, dataSets: Definitions): Map<string, string[]> {
  const followers = new Map<string, string[]>();
  for (const id of ids)
    for (const origin of comesFrom(id, dataSets))
      followers.set(origin, [...(followers.get(origin) ?? []), id]);
  return followers;
}

/** A data set and all that are made of it or refer to it. */
export const leadsTo = (id: string, dataSets: Definitions): Set<string> =>
  reached(id, (each) => [...dataSets.keys()].filter((other) => refs(other, dataSets).includes(each)));
