import type { Condition } from '#core/ask/condition/schema.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOfDataSet } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { keyAndTitle } from '#core/dataset/naming.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { subsetOf } from './subset.ts';

/*
 * What a reader of a dashboard may look at and narrow by: the fields that its panes show and its clauses offer, of the records
 * that its panes keep. The one place that decides it; whatever a reader asks by address is held against it.
 */

/** The conditions of a pane's own, beside those that its data set always has. */
export const ownConditions = ({ subset, keeping }: PaneRecords, dataSet: DataSet): Condition[] => [
  ...(subset === undefined ? [] : [subsetOf(dataSet, subset).where]),
  ...(keeping ? [keeping] : []),
];

const known = (names: readonly string[], { fields }: DataSet): string[] =>
  [...new Set(names)].filter((name) => fields.some((field) => field.name === name));

/** The fields of a data set that readers of a dashboard may look at and narrow by. */
export function offeredFields(dashboard: Dashboard, dataSetId: string, dataSet: DataSet): string[] {
  const clauses = dashboard.scope.flatMap((clause) =>
    clause.dataSet === dataSetId && clause.offer !== 'input' ? [clause.field] : [],
  );
  return known(
    [...usesOfDataSet(dashboard.panes, dataSetId).flatMap((use) => use.shows(dataSet)), ...clauses],
    dataSet,
  );
}

/** Keeps the records of a data set that some pane can show; null where one of them keeps all. */
export function visibleCondition(
  dashboard: Dashboard,
  dataSetId: string,
  dataSet: DataSet,
): Condition | null {
  const each = usesOfDataSet(dashboard.panes, dataSetId).map((use) => ownConditions(use, dataSet));
  if (each.length === 0 || each.some((conditions) => conditions.length === 0)) return null;
  return { any: each.map((all) => ({ all })) };
}

/**
 * The fields that a record shows when it is opened from a pane: the pane's own, and those that another pane shows of these very
 * records, which is one without conditions of its own or with the same.
 */
export function recordFields(use: PaneUse, dashboard: Dashboard, dataSet: DataSet): string[] {
  const own = JSON.stringify(ownConditions(use, dataSet));
  const others = usesOfDataSet(dashboard.panes, use.dataSet).filter((other) => {
    const conditions = ownConditions(other, dataSet);
    return conditions.length === 0 || JSON.stringify(conditions) === own;
  });
  const more = use.hasNumbers ? others : others.filter(({ follows }) => follows === 'picks');
  return known(
    [...use.shows(dataSet), ...more.flatMap((other) => other.shows(dataSet)), ...keyAndTitle(dataSet)],
    dataSet,
  );
}

/**
 * A data set as readers are sent it: the fields that are offered, the measures that panes show, and what records are called.
 * Nothing of where its records come from, how they are made, or what they are kept by.
 */
export function publicDataSet(dashboard: Dashboard, dataSetId: string, dataSet: DataSet): DataSet {
  const offered = new Set([...offeredFields(dashboard, dataSetId, dataSet), ...keyAndTitle(dataSet)]);
  const shown = new Set(usesOfDataSet(dashboard.panes, dataSetId).flatMap(({ measures }) => [...measures]));
  const { version, source, inputs, noun, key, title } = dataSet;
  return {
    version,
    source,
    request: { kind: 'upload', columns: [] },
    inputs: inputs.map(({ sample: _, refers: __, allowed: ___, ...input }) => input),
    fields: dataSet.fields
      .filter(({ name }) => offered.has(name))
      .map(({ origin: _, refers: __, ...field }) => field),
    ...(key === undefined ? {} : { key }),
    ...(title === undefined ? {} : { title }),
    noun,
    measures: dataSet.measures
      .filter(({ name }) => shown.has(name))
      .map(({ name, label, unit, format, good, target }) => ({
        name,
        label,
        calculation: { kind: 'count' as const },
        ...(unit === undefined ? {} : { unit }),
        ...(format === undefined ? {} : { format }),
        ...(good === undefined ? {} : { good }),
        ...(target === undefined ? {} : { target }),
      })),
  };
}
