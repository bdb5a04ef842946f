import { allOf } from '#core/plan/plan.ts';
import type { PaneQuestion } from './kind.ts';
import type { OneContext } from './of-one.ts';

/** The one record that a pane which follows picks is of. */
export const pickedRecord = (
  { from, applied, clock }: OneContext,
  fields: readonly string[],
): PaneQuestion => ({
  plan: {
    kind: 'records',
    from,
    zone: clock.zone,
    where: allOf(applied.map(({ filter }) => filter)),
    fields: [...fields],
    order: [],
    offset: 0,
    limit: 2,
  },
});
