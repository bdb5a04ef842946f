import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { measureFields } from '#core/ask/measure/calculation.ts';
import { actionFields } from './action-fields.ts';
import { checkFields } from './check-fields.ts';
import type { DataSet } from './schema.ts';

/** The first field that is named and not there. */
function lost(names: readonly string[], { fields }: DataSet): string | undefined {
  return names.find((name) => !fields.some((field) => field.name === name));
}

/** What of a data set needs a field that is not there any more, a sentence each. */
export function lostNeeds(dataSet: DataSet): string[] {
  const { measures, subsets = [], checks = [], changes, keeping, rowRule } = dataSet;
  const lossWords = (what: string, names: readonly string[]): string[] => {
    const name = lost(names, dataSet);
    return name === undefined ? [] : [`${what} needs the field “${name}”, which is not there any more`];
  };
  return [
    ...(keeping ? lossWords('What is always kept', fieldsOf(keeping)) : []),
    ...(rowRule ? lossWords('Who sees which records', fieldsOf(rowRule)) : []),
    ...measures.flatMap((measure) => lossWords(`The measure “${measure.label}”`, measureFields(measure))),
    ...subsets.flatMap(({ label, where }) => lossWords(`The subset “${label}”`, fieldsOf(where))),
    ...checks.flatMap(({ name, expects }) => lossWords(`The check “${name}”`, checkFields(expects))),
    ...(changes?.actions ?? []).flatMap((action) =>
      lossWords(`The action “${action.label}”`, actionFields(action)),
    ),
    ...(changes?.rules ?? []).flatMap(({ field, than }) => lossWords('A rule between fields', [field, than])),
  ];
}

/** The data set without what needs a field that is not there any more. */
export function withoutLost(dataSet: DataSet): DataSet {
  const { key, title, keeping, subsets, checks, changes, ...rest } = dataSet;
  const stays = (names: readonly string[]): boolean => lost(names, dataSet) === undefined;
  return {
    ...rest,
    measures: rest.measures.filter((measure) => stays(measureFields(measure))),
    ...(keeping && stays(fieldsOf(keeping)) ? { keeping } : {}),
    ...(subsets ? { subsets: subsets.filter(({ where }) => stays(fieldsOf(where))) } : {}),
    ...(checks ? { checks: checks.filter(({ expects }) => stays(checkFields(expects))) } : {}),
    ...(changes
      ? {
          changes: {
            ...changes,
            ...(changes.rules
              ? { rules: changes.rules.filter(({ field, than }) => stays([field, than])) }
              : {}),
            inPlace: changes.inPlace.filter((field) => stays([field])),
            actions: changes.actions.filter((action) => stays(actionFields(action))),
          },
        }
      : {}),
    ...(key !== undefined && stays([key]) ? { key } : {}),
    ...(title !== undefined && stays([title]) ? { title } : {}),
  };
}
