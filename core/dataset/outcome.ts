import { shape, stepRefs } from '#core/dataset/step/kinds.ts';
import type { Ref } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric } from '#core/value/field/value.ts';
import type { DataSet } from './schema.ts';
import type { World } from './world.ts';

/** The fields that a data set's request yields, before its steps. */
export const startOf = (dataSet: DataSet): readonly Field[] => dataSet.start ?? dataSet.fields;

/** The data sets that a data set is made of or refers to. */
export const refsOf = ({
  request,
  steps = [],
  inputs,
}: Pick<DataSet, 'request' | 'steps' | 'inputs'>): Ref[] => [
  ...(request.kind === 'of'
    ? [{ dataSet: request.dataSet, ...(request.subset === undefined ? {} : { subset: request.subset }) }]
    : []),
  ...steps.flatMap(stepRefs),
  ...inputs.flatMap(({ allowed }) => (allowed ? [{ dataSet: allowed.dataSet }] : [])),
];

/** The data sets that have to be known to ask for its records: those it refers to, and the one whose records it has follow-ups of. */
export const neededIds = (dataSet: DataSet): string[] => [
  ...refsOf(dataSet).map(({ dataSet: id }) => id),
  ...(dataSet.request.kind === 'follow-ups' ? [dataSet.request.dataSet] : []),
];

/**
 * A data set whose fields are what its steps make of the request's: names and types from the steps, and what was said of a
 * field to readers (label, unit, writing, states) stays with its name.
 */
export function withOutcome(dataSet: DataSet, world: World): DataSet {
  const { steps = [], start: before, ...rest } = dataSet;
  // What is made of another data set starts with the fields that one has now.
  const start =
    dataSet.request.kind === 'of' ? (world.get(dataSet.request.dataSet)?.fields ?? before) : before;
  if (steps.length === 0) {
    if (!start) return dataSet;
    const { steps: _, start: __, ...plain } = dataSet;
    return { ...plain, fields: withLabels(start, dataSet.fields) };
  }
  const outcome = shape(start ?? dataSet.fields, steps, world).fields.at(-1) ?? dataSet.fields;
  const fields = withLabels(outcome, dataSet.fields);
  const isOrdered = steps.some(({ kind, off }) => kind === 'fields' && !off);
  return {
    ...rest,
    steps,
    start: [...(start ?? dataSet.fields)],
    fields: isOrdered ? fields : inOrderOf(fields, dataSet.fields),
  };
}

/** Fields in the order that those of the same name had; new ones come last. */
function inOrderOf(fields: readonly Field[], before: readonly Field[]): Field[] {
  const rank = new Map(before.map(({ name }, at) => [name, at]));
  return [...fields].sort(
    (a, b) => (rank.get(a.name) ?? before.length) - (rank.get(b.name) ?? before.length),
  );
}

/** Fields as they are now, each with what was said of the one of its name and type before. */
function withLabels(outcome: readonly Field[], before: readonly Field[]): Field[] {
  return outcome.map((field) => {
    const known = before.find(({ name }) => name === field.name);
    if (!known) return field;
    const { format, states, bands, ...words } = known;
    const sameType = known.type === field.type;
    return {
      ...field,
      ...words,
      type: field.type,
      ...(sameType && format ? { format } : {}),
      ...(sameType && states ? { states } : {}),
      ...(isNumeric(field.type) && bands ? { bands } : {}),
    };
  });
}
