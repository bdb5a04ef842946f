import { oneUse } from '../../use-of-one.ts';
import type { CrosstabPane, Level } from './schema.ts';

/** All of its levels: those down, then those across. */
export const levelsOf = ({ down, across }: CrosstabPane): Level[] => [...down, ...across];

export const crosstab = oneUse<CrosstabPane>((pane) => {
  const levels = levelsOf(pane);
  const fields = [...levels.map(({ field }) => field), ...(pane.behind ?? [])];
  return {
    follows: 'scope',
    fields,
    measures: pane.measures,
    shows: () => fields,
    hasNumbers: true,
    unit: levels.find(({ unit }) => unit !== undefined)?.unit,
    marks: (field, unit) =>
      levels.some((level) => level.field === field && level.unit === unit && level.cycle === undefined),
  };
});
