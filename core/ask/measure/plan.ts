import { resolveCondition } from '#core/ask/condition/resolve.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Clock } from '#core/value/period/period.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { PlannedMeasure } from './calculation.ts';
import type { Measure } from './schema.ts';

/** What measures are of. */
interface Measured {
  readonly fields: readonly Field[];
  readonly measures: readonly Measure[];
  readonly noun: { readonly many: string };
}

/** A data set's measure by name. Throws a {@link ProblemError} when it has gone. */
export function measureOf(dataSet: Measured, name: string): Measure {
  const found = dataSet.measures.find((measure) => measure.name === name);
  if (found) return found;
  throw new ProblemError({
    code: 'missing',
    doing: 'working out what to measure',
    why: `the data set of ${dataSet.noun.many} has no measure “${name}”`,
    mend: 'Choose another measure in the brief, or bring it back in the data set.',
  });
}

/** A measure with its conditions resolved at a moment. */
export function plannedMeasure(measure: Measure, dataSet: Measured, clock: Clock): PlannedMeasure {
  const resolve = (condition: Parameters<typeof resolveCondition>[0]) =>
    resolveCondition(condition, dataSet.fields, clock);
  const { calculation } = measure;
  return {
    name: measure.name,
    calculation:
      calculation.kind === 'share' ? { kind: 'share', where: resolve(calculation.where) } : calculation,
    ...(measure.where ? { where: resolve(measure.where) } : {}),
  };
}
