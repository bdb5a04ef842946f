import type { Field } from '#core/value/field/field.ts';
import { isTemporal } from '#core/value/field/value.ts';
import type { SuggestionContext } from './kind.ts';

/** Fields that are named for when something is due, or was over: when it began is what records are told apart by. */
export const dueNames = /(^|_)(due|deadline|expires?|expiry|until|needed)(_|$)/i;
const endNames = /(^|_)(done|closed|ended|finished|settled|resolved|updated|changed)(_|$)/i;

/** The field that says when a record was: the first that does, except for when it was due or over. */
function mainTime(fields: readonly Field[]): Field | undefined {
  const times = fields.filter(({ type }) => isTemporal(type));
  return times.find(({ name }) => !dueNames.test(name) && !endNames.test(name)) ?? times[0];
}

/** What is known of a data set to whom suggests panes of it. */
export function suggestionContext({
  dataSetId,
  dataSet,
  offered,
}: Pick<SuggestionContext, 'dataSetId' | 'dataSet' | 'offered'>): SuggestionContext {
  const visibleFields = dataSet.fields.filter(({ hidden, type }) => !hidden && type !== 'nested');
  const isCategory = (field: (typeof visibleFields)[number]): boolean =>
    field.type === 'text' &&
    field.name !== dataSet.title &&
    field.format?.kind !== 'id' &&
    field.format?.kind !== 'picture';
  return {
    dataSetId,
    dataSet,
    offered,
    visibleFields,
    measure: dataSet.measures[0]?.name ?? 'count',
    time: mainTime(visibleFields),
    category:
      visibleFields.find((field) => field.states) ?? visibleFields.find(isCategory) ?? visibleFields[0],
    behind: visibleFields
      .filter(({ format }) => format?.kind !== 'picture')
      .slice(0, 8)
      .map(({ name }) => name),
  };
}
