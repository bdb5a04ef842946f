import type { Asker } from '#core/ask/condition/resolve.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Clause, Dashboard } from '#core/dashboard/schema.ts';
import type { Scope } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { freeName } from '#core/value/field/free-name.ts';
import type { Clock } from '#core/value/period/period.ts';
import { clauseSubject } from './clauses.ts';

/** What picked records are called, and what they lead to. */
export interface PickedRecords {
  /** By the text of the pick (see `focusText`). */
  readonly names: Readonly<Record<string, string>>;
  /** The keys that picked records refer to, by what they mean (see `meaningOf`). */
  readonly links: Readonly<Record<string, string>>;
}

/** Everything that decides what a pane shows. Passed in whole: core has no clock, user or store of its own. */
export interface Context {
  readonly dashboard: Dashboard;
  readonly dataSets: ReadonlyMap<string, DataSet>;
  readonly scope: Scope;
  readonly clock: Clock;
  /** What is known of the records that are picked; absent while nobody has asked. */
  readonly picked?: PickedRecords | undefined;
  /** Who asks, for conditions that compare with them. */
  readonly person?: Asker | undefined;
}

/** The data sets that a dashboard's clauses and panes are about, each once. */
export const usedDataSets = ({ scope, panes }: Pick<Dashboard, 'scope' | 'panes'>): string[] => [
  ...new Set([...scope, ...panes.flatMap(usesOf)].map(({ dataSet }) => dataSet)),
];

/** Short names of the data sets on a dashboard, for addresses: the plural noun, made unique in order of first use. */
export function shortNames(
  dashboard: Dashboard,
  dataSets: ReadonlyMap<string, DataSet>,
): Map<string, string> {
  const names = new Map<string, string>();
  for (const id of usedDataSets(dashboard)) {
    const dataSet = dataSets.get(id);
    if (!dataSet) continue;
    const slug =
      dataSet.noun.many
        .toLowerCase()
        .replace(/[^\p{L}\p{N}]+/gu, '-')
        .replace(/^-+|-+$/g, '') || 'records';
    const taken = new Set(names.values());
    names.set(
      id,
      freeName(slug, (name) => taken.has(name), '-'),
    );
  }
  return names;
}

/** The data set that a short name means, with its id. */
export function dataSetNamed(
  name: string,
  { dashboard, dataSets }: Pick<Context, 'dashboard' | 'dataSets'>,
): { id: string; dataSet: DataSet } | null {
  const [id] = [...shortNames(dashboard, dataSets)].find(([, each]) => each === name) ?? [];
  const dataSet = id === undefined ? undefined : dataSets.get(id);
  return id !== undefined && dataSet ? { id, dataSet } : null;
}

/** The data set that a short name means. */
export const dataSetOf = (name: string, context: Pick<Context, 'dashboard' | 'dataSets'>): DataSet | null =>
  dataSetNamed(name, context)?.dataSet ?? null;

export const clauseType = (clause: Clause, dataSets: ReadonlyMap<string, DataSet>) =>
  clauseSubject(clause, dataSets.get(clause.dataSet))?.type ?? 'text';

/** The test of a clause now: the reader's, else its initial one; null is no restriction. */
export function testOf(clause: Clause, scope: Scope) {
  const chosen = scope.clauses[clause.name];
  return chosen === undefined ? (clause.initially ?? null) : chosen;
}
