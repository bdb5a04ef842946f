import { neededIds } from './outcome.ts';
import type { World } from './world.ts';

/** Whether a rule about who sees which records stands on a data set, or on one that it is made of or looks up. */
export function isRuled(id: string, world: World, seen: Set<string> = new Set()): boolean {
  const dataSet = world.get(id);
  if (!dataSet || seen.has(id)) return false;
  seen.add(id);
  return dataSet.rowRule !== undefined || neededIds(dataSet).some((each) => isRuled(each, world, seen));
}
