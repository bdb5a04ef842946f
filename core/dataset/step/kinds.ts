import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { fieldNamed, type Others, type StepKind } from './kind.ts';
import { derive, fields, rename, spread, type } from './kinds/fields.ts';
import { lookUp } from './kinds/look-up.ts';
import { distinct, fill, rank, running, where } from './kinds/records.ts';
import { long, periods, stack, summarise, unfold, wide } from './kinds/reshape.ts';
import type { Ref, Step, StepKindName, StepOf } from './schema.ts';

/** Every kind of step. A new one is a schema, a line here with what it does to fields, and a line in core/sql/step. */
const kinds: { readonly [K in StepKindName]: StepKind<StepOf<K>> } = {
  fields,
  rename,
  type,
  where,
  derive,
  lookUp,
  unfold,
  spread,
  stack,
  distinct,
  fill,
  summarise,
  rank,
  running,
  periods,
  wide,
  long,
};

export const kindOf = (step: Step): StepKind<Step> => kinds[step.kind] as unknown as StepKind<Step>;

/** What has become of the fields after some steps, and the first problem of each step that cannot be done. */
export interface FieldFlow {
  /** The fields before each step, and last those after all of them. */
  readonly fields: readonly (readonly Field[])[];
  /** By step, null where it can be done. A step that cannot leaves the fields as they were. */
  readonly problems: readonly (string | null)[];
}

/** Engines that do not tell capitals apart would take one for the other; what a source already calls so stays. */
function sameButForCapitals(before: readonly Field[], after: readonly Field[]): string | null {
  const known = new Map<string, string>();
  for (const { name } of after) {
    const other = known.get(name.toLowerCase());
    known.set(name.toLowerCase(), name);
    if (other !== undefined && !(fieldNamed(before, name) && fieldNamed(before, other)))
      return `“${other}” and “${name}” differ only in capitals; rename one of them`;
  }
  return null;
}

/** Follows the fields through steps. */
export function shape(start: readonly Field[], steps: readonly Step[], others: Others): FieldFlow {
  const fields: (readonly Field[])[] = [start];
  const problems: (string | null)[] = [];
  for (const step of steps) {
    const before = fields.at(-1) ?? start;
    const kind = kindOf(step);
    const wrong = step.off ? null : kind.problem(step, before, others);
    const after = step.off || wrong ? before : kind.after(step, before, others);
    const problem = wrong ?? sameButForCapitals(before, after);
    problems.push(problem);
    fields.push(problem ? before : after);
  }
  return { fields, problems };
}

export const stepReads = (step: Step, before: readonly Field[]): readonly string[] =>
  kindOf(step).reads(step, before);
export const stepMakes = (step: Step, before: readonly Field[]): readonly string[] =>
  kindOf(step).makes(step, before);
export const stepCarries = (step: Step, name: string): string | null => kindOf(step).carries(step, name);
export const stepRecords = (step: Step): 'same' | 'fewer' | 'other' => kindOf(step).records(step);

export const stepRefs = (step: Step): readonly Ref[] => kindOf(step).refs(step);
export const notAtSource = (step: Step): string | null => kindOf(step).notAtSource(step);

/** How a field is called where it is spoken of. */
export const fieldWords = (name: string, fields: readonly Field[]): string =>
  labelOf(fieldNamed(fields, name) ?? { name }).toLowerCase();
