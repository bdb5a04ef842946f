import { oneUse } from '../../use-of-one.ts';
import type { ChartPane } from './schema.ts';

/** The fields that it is divided by. */
export const groupFields = ({ each, by, split }: ChartPane): string[] => [
  ...(each ? [each.field] : []),
  by.field,
  ...(split === undefined ? [] : [split]),
];

export const chart = oneUse<ChartPane>((pane) => {
  const { measure, second, each, by, split, behind = [] } = pane;
  const fields = [...groupFields(pane), ...behind];
  return {
    follows: 'scope',
    fields,
    measures: [measure, ...(second === undefined ? [] : [second])],
    shows: () => fields,
    hasNumbers: true,
    unit: by.unit,
    marks: (field, unit) =>
      (by.field === field && by.unit === unit && by.cycle === undefined && by.bins === undefined) ||
      split === field ||
      each?.field === field,
  };
});
