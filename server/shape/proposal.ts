import { proposeDashboard } from '#core/dashboard/propose.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { allDataSets } from '../store/data-sets.ts';
import { factsOf } from './facts.ts';

/** What is proposed as a first dashboard of a data set, with the definitions that it is of; null where there is no such data set. */
export async function proposalFor(id: string, signal: AbortSignal) {
  const offered = (await allDataSets()).map(({ id: each, name, definition }) => ({
    id: each,
    name,
    dataSet: definition,
  }));
  const about = offered.find((each) => each.id === id);
  if (!about) return null;
  const facts = await factsOf(about, signal);
  const dashboard: Dashboard = proposeDashboard(about, { offered, facts, now: new Date() });
  return { about, offered, dashboard };
}
