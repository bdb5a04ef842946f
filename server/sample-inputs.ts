import type { Input } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { parseValue } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';

/** The values that a data set is designed with. Throws a {@link ProblemError} where a sample is missing or wrong. */
export function sampleInputs(inputs: readonly Input[], doing: string): Relation['inputs'] {
  const wrong = (why: string, mend: string): ProblemError =>
    new ProblemError({ code: 'bad-request', doing, why, mend });
  return Object.fromEntries(
    inputs.map(({ name, type, sample, required }) => {
      if (required && !sample)
        throw wrong(
          `the input “${name}” has no sample value`,
          'Give it one, to design with. It never reaches a reader’s page.',
        );
      const read = sample ? parseValue(type, sample) : null;
      if (read && !read.ok)
        throw wrong(`the sample of “${name}”: ${read.why}`, 'Give a sample value of its type.');
      return [name, { type, value: sample || null }];
    }),
  );
}
