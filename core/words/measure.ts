import type { Calculation, Measure, SimpleCalculation } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { conditionWords } from './condition.ts';

/** What can be computed, as it stands in a sentence. */
export const calculationKinds = {
  count: 'how many',
  distinct: 'how many different',
  sum: 'sum of',
  average: 'average of',
  median: 'median of',
  percentile: 'percentile of',
  least: 'least',
  greatest: 'greatest',
  first: 'first',
  last: 'last',
  weighted: 'weighted average of',
  share: 'share where',
  ratio: 'ratio of two',
} as const satisfies Record<Calculation['kind'], string>;

/** A measure's conditions hold whenever it is worked out: no moment is said. */
const clock = 'UTC';

function simpleWords(calculation: SimpleCalculation, { fields, noun }: DataSet): string {
  if (calculation.kind === 'count') return `how many ${noun.many}`;
  const field = fields.find(({ name }) => name === calculation.field) ?? { name: calculation.field };
  const label = labelOf(field).toLowerCase();
  if ('by' in calculation) {
    const by = labelOf(
      fields.find(({ name }) => name === calculation.by) ?? { name: calculation.by },
    ).toLowerCase();
    return `${calculationKinds[calculation.kind]} ${label} by ${by}`;
  }
  return calculation.kind === 'percentile'
    ? `percentile ${calculation.at} of ${label}`
    : `${calculationKinds[calculation.kind]} ${label}`;
}

/** What a calculation gives, in words: "sum of delay", "the share where cause is weather". */
export function calculationWords(calculation: Calculation, dataSet: DataSet): string {
  switch (calculation.kind) {
    case 'share':
      return `the share where ${conditionWords(calculation.where, dataSet.fields, clock)}`;
    case 'ratio':
      return `${simpleWords(calculation.of, dataSet)} per ${simpleWords(calculation.to, dataSet)}`;
    default:
      return simpleWords(calculation, dataSet);
  }
}

/** What a measure computes, in words, with the records that it keeps. */
export function measureWords(
  { calculation, where }: Pick<Measure, 'calculation' | 'where'>,
  dataSet: DataSet,
): string {
  const words = calculationWords(calculation, dataSet);
  return where ? `${words}, keeping ${conditionWords(where, dataSet.fields, clock)}` : words;
}
