import { oneUse } from '../../use-of-one.ts';
import type { ChartPane } from './schema.ts';

/** The fields that it is divided by. */
export const groupFields = ({ by, split }: ChartPane): string[] => [
  by.field,
  ...(split === undefined ? [] : [split]),
];

export const chart = oneUse<ChartPane>((pane) => {
  const { measure, by, split, behind = [] } = pane;
  const fields = [...groupFields(pane), ...behind];
  return {
    follows: 'scope',
    fields,
    measures: [measure],
    shows: () => fields,
    hasNumbers: true,
    unit: by.unit,
    marks: (field, unit) => (by.field === field && by.unit === unit) || split === field,
  };
});
