import type { Asker } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import { extend, type Relation } from '#core/plan/plan.ts';
import { planSteps, relationWith } from '#core/plan/relation.ts';
import type { Clock } from '#core/value/period/period.ts';
import { sampleInputs } from '../sample-inputs.ts';

/** What every question of a data set's steps is asked with: the definition as it is on the page, saved or not. */
export interface Shaping {
  readonly id: string;
  readonly definition: DataSet;
  readonly world: World;
  readonly clock: Clock;
  readonly person: Asker;
  readonly signal: AbortSignal;
}

export const recordCount: PlannedMeasure = { name: 'count', calculation: { kind: 'count' } };

/** This many of the queries of one question run at a time: what a person asks meanwhile is worked out between them, not after them all. */
export const asideAtOnce = 2;

/** The relation after the first of its steps, with the inputs' sample values. */
export function relationAfter({ id, definition, world, clock, person }: Shaping, steps: number): Relation {
  const inputs = sampleInputs(definition.inputs, 'reading the records');
  // What is looked at is what builders see; the rule of the data set itself is not among its steps.
  const { steps: _, rowRule: __, ...plain } = definition;
  const base = relationWith({ ...plain, fields: [...startOf(definition)] }, id, inputs, {
    world,
    clock,
    person,
  });
  const some = (definition.steps ?? []).slice(0, steps);
  if (some.length === 0) return base;
  return extend(base, planSteps(base.fields, some, inputs, { world, clock, person }));
}
