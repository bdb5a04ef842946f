import { dashboardChanges, sameJson } from '#core/dashboard/compare.ts';
import { checkFlow } from '#core/dashboard/flow/check.ts';
import { usedDataSets } from '#core/dashboard/flow/context.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { keepProblem } from '#core/dataset/keep-problem.ts';
import { lostNeeds } from '#core/dataset/lost.ts';
import { refsOf, startOf, withOutcome } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { shape } from '#core/dataset/step/kinds.ts';
import { comesFrom } from '#core/lineage/reach.ts';
import type { DefinitionsFile } from './file.ts';

/* What bringing a file of definitions in would do, worked out before anything is done. */

/** What an installation has. */
export interface Present {
  readonly dataSets: ReadonlyMap<string, { readonly name: string; readonly definition: DataSet }>;
  readonly dashboards: ReadonlyMap<string, Dashboard>;
}

export interface ReviewedItem {
  readonly kind: 'data set' | 'dashboard';
  readonly id: string;
  readonly name: string;
  readonly state: 'new' | 'changed' | 'same';
  /** What is different, a sentence each. */
  readonly changes: readonly string[];
  /** Why it cannot be brought in, a sentence each. */
  readonly problems: readonly string[];
}

/** The data sets of a file as they would be, their sources being those that were chosen, by the ids of the file's. */
export const withSources = (
  { dataSets }: DefinitionsFile,
  chosen: ReadonlyMap<string, string>,
): Map<string, { readonly name: string; readonly definition: DataSet }> =>
  new Map(
    dataSets.map(({ id, name, definition }) => [
      id,
      { name, definition: { ...definition, source: chosen.get(definition.source) ?? definition.source } },
    ]),
  );

const parts = [
  ['request', 'What is asked of its source changed.'],
  ['fields', 'Its fields changed.'],
  ['steps', 'Its steps changed.'],
  ['measures', 'Its measures changed.'],
  ['subsets', 'Its subsets changed.'],
  ['checks', 'Its checks changed.'],
  ['rowRule', 'Who sees which records changed.'],
  ['changes', 'What people may change changed.'],
  ['keep', 'How its records are kept changed.'],
  ['source', 'It comes from another source.'],
] as const satisfies readonly (readonly [keyof DataSet, string])[];

/** What differs between two definitions of a data set, one sentence for each part. */
export function dataSetChanges(before: DataSet, after: DataSet): string[] {
  if (sameJson(before, after)) return [];
  const named = parts.flatMap(([part, words]) => (sameJson(before[part], after[part]) ? [] : [words]));
  return named.length > 0 ? named : ['Its words or names changed.'];
}

/** What keeps a data set from working among others, a sentence each. */
function dataSetProblems(
  id: string,
  definition: DataSet,
  world: ReadonlyMap<string, DataSet>,
): readonly string[] {
  const missing = refsOf(definition).filter(({ dataSet }) => !world.has(dataSet));
  if (missing.length > 0)
    return ['It is made of, or looks up, a data set that is neither here nor in the file.'];
  const isCircle = refsOf(definition).some(({ dataSet }) => comesFrom(dataSet, world).has(id));
  if (isCircle) return ['It leads back to itself, through the data sets that it looks up.'];
  const settled = withOutcome(definition, world);
  const steps = shape(startOf(settled), settled.steps ?? [], world).problems;
  const kept = keepProblem(settled);
  return [
    ...steps.flatMap((problem, at) => (problem === null ? [] : [`Step ${at + 1}: ${problem}.`])),
    ...lostNeeds(settled),
    ...(kept === null ? [] : [kept]),
  ];
}

function dashboardProblems(dashboard: Dashboard, world: ReadonlyMap<string, DataSet>): string[] {
  const missing = usedDataSets(dashboard).filter((id) => !world.has(id));
  if (missing.length > 0) return ['It shows a data set that is neither here nor in the file.'];
  return checkFlow(dashboard, world)
    .filter(({ panes }) => panes.length > 1)
    .map(({ why }) => why);
}

/** What would become of each data set and dashboard of a file, in the order in which they are listed there. */
export function review(
  file: DefinitionsFile,
  present: Present,
  chosen: ReadonlyMap<string, string>,
): ReviewedItem[] {
  const brought = withSources(file, chosen);
  const world = new Map(
    [...present.dataSets, ...brought].map(([id, { definition }]): [string, DataSet] => [id, definition]),
  );
  const dataSets = [...brought].map(([id, { name, definition }]): ReviewedItem => {
    const before = present.dataSets.get(id);
    const changes = before
      ? [
          ...(before.name === name ? [] : [`It was called “${before.name}”.`]),
          ...dataSetChanges(before.definition, definition),
        ]
      : [];
    return {
      kind: 'data set',
      id,
      name,
      state: before ? (changes.length > 0 ? 'changed' : 'same') : 'new',
      changes,
      problems: dataSetProblems(id, definition, world),
    };
  });
  const dashboards = file.dashboards.map(({ id, definition }): ReviewedItem => {
    const before = present.dashboards.get(id);
    const changes = before ? dashboardChanges(before, definition) : [];
    const isSame = before !== undefined && sameJson(before, definition);
    return {
      kind: 'dashboard',
      id,
      name: definition.title,
      state: before ? (isSame ? 'same' : 'changed') : 'new',
      changes,
      problems: dashboardProblems(definition, world),
    };
  });
  return [...dataSets, ...dashboards];
}
