import { calledColumns } from '#core/change/calls.ts';
import type { Values } from '#core/change/change.ts';
import type { OfferedAction } from '#core/change/offers.ts';
import type { Target } from '#core/change/values.ts';
import { keyColumn, writableColumn } from '#core/change/writable.ts';
import type { Context } from '#core/dashboard/flow/context.ts';
import { offersFor, paneOffers } from '#core/dashboard/flow/pane-offers.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { fieldOf } from '#core/dashboard/pane/shown.ts';
import type { PaneUse } from '#core/dashboard/pane/use.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Action } from '#core/dataset/change/schema.ts';
import { oneTable } from '#core/dataset/one-table.ts';
import type { Column, DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import { labelOf } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { ChangedPlace } from '#sources/change.ts';

/* What is asked to be done, held against what the pane offers. */

/** What is to be done to the records of a pane, which offers it. */
export interface Subject {
  readonly pane: Pane;
  readonly use: PaneUse;
  readonly dataSet: DataSet;
  readonly action: Action;
  readonly most: number;
}

/** What is asked for is not among what the pane offers. */
export const notOffered = (): ProblemError =>
  new ProblemError({
    code: 'forbidden',
    doing: 'changing records',
    why: 'this is not offered here any more',
    mend: 'Reload the page: it may have been published again.',
  });

/** A pane with what it offers to do to its records. Throws a {@link ProblemError} where that is nothing. */
export function offeringPane(paneId: string, context: Context) {
  const { dashboard, dataSets } = context;
  const pane = dashboard.panes.find(({ id }) => id === paneId);
  const use = pane && usesOf(pane)[0];
  const dataSet = use && dataSets.get(use.dataSet);
  const all = pane && paneOffers(pane, context);
  const offers = all && offersFor(pane, all, context);
  if (!pane || !use || !dataSet || !offers) throw notOffered();
  return { pane, use, dataSet, offers };
}

/** What is asked to be done. Throws a {@link ProblemError} for what the pane does not offer. */
export function subjectOf(
  paneId: string,
  doing: { readonly action: string } | { readonly field: string },
  context: Context,
): Subject {
  const { pane, use, dataSet, offers } = offeringPane(paneId, context);
  if ('field' in doing) {
    if (!offers.inPlace.includes(doing.field)) throw notOffered();
    return { pane, use, dataSet, action: inPlace(doing.field, dataSet), most: 1 };
  }
  const offered: OfferedAction | undefined = offers.actions.find(({ name }) => name === doing.action);
  const action = dataSet.changes?.actions.find(({ name }) => name === doing.action);
  if (!offered || !action) throw notOffered();
  return { pane, use, dataSet, action, most: offered.most };
}

/** What changing a field in its place is, as an action. */
const inPlace = (field: string, dataSet: DataSet): Action => ({
  name: field,
  label: `Change ${labelOf(fieldOf(dataSet, field)).toLowerCase()}`,
  way: 'update',
  sets: [{ field, to: { kind: 'ask' } }],
});

/** Where a data set's records are changed, and the columns there by the names of the fields. */
export interface PlaceOfFields {
  readonly place: ChangedPlace;
  readonly columnOf: (field: string) => Column;
  readonly targetOf: (field: string) => Target;
}

/** Where the records of a data set are changed. Throws a {@link ProblemError} where nobody can. */
export function placeOf(dataSet: DataSet, world: World): PlaceOfFields {
  const cannot = (why: string): ProblemError =>
    new ProblemError({
      code: 'bad-request',
      doing: `changing ${dataSet.noun.many}`,
      why,
      mend: 'Look at what the data set lets people change.',
    });
  const key = keyColumn(dataSet, world);
  if (!key.ok) throw cannot(key.why);
  const table = oneTable(dataSet.request);
  const called = calledColumns(dataSet);
  const { calls } = dataSet.changes ?? {};
  const place: ChangedPlace | null = table
    ? { kind: 'one-table', schema: table.schema, table: table.table, key: key.column }
    : called && calls
      ? { kind: 'calls', calls, columns: called, key: key.column }
      : null;
  if (!place) throw cannot('its records do not come from one table');
  const columnOf = (field: string): Column => {
    const found = writableColumn(dataSet, field, world);
    if (!found.ok) throw cannot(`“${field}” cannot be set: ${found.why}`);
    return found.column;
  };
  return {
    place,
    columnOf,
    targetOf: (field) => ({ field: fieldOf(dataSet, field), column: columnOf(field) }),
  };
}

/** Columns of fields, each once. */
export const columnsOf = (fields: readonly string[], place: PlaceOfFields): Column[] => [
  ...new Map(fields.map((field) => [place.columnOf(field).name, place.columnOf(field)])).values(),
];

export const toColumns = (values: Values, place: PlaceOfFields): Values =>
  Object.fromEntries(Object.entries(values).map(([field, value]) => [place.columnOf(field).name, value]));

export const toFields = (
  values: Values | null,
  fields: readonly string[],
  place: PlaceOfFields,
): Values | null =>
  values &&
  Object.fromEntries(
    fields.flatMap((field) => {
      const { name } = place.columnOf(field);
      return name in values ? [[field, values[name] ?? null]] : [];
    }),
  );
