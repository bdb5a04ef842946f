import type { DataSet } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';

/** What the form of a step is given. */
export interface StepFormProps<S extends Step = Step> {
  readonly step: S;
  /** The fields before it. */
  readonly fields: readonly Field[];
  readonly id: string;
  readonly definition: DataSet;
  /** How many steps come before it. */
  readonly at: number;
  readonly world: ReadonlyMap<string, DataSet>;
  readonly names: ReadonlyMap<string, string>;
  /** It has been added just now, and says only what was guessed. */
  readonly isFresh: boolean;
  readonly onChange: (step: S) => void;
}
