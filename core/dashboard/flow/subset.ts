import type { DataSet, Subset } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';

/** A data set's subset by name. Throws a {@link ProblemError} when it has gone: all records are not what was meant. */
export function subsetOf(dataSet: DataSet, name: string): Subset {
  const found = dataSet.subsets?.find((subset) => subset.name === name);
  if (found) return found;
  throw new ProblemError({
    code: 'missing',
    doing: 'working out which records to show',
    why: `the data set of ${dataSet.noun.many} has no subset “${name}”`,
    mend: 'Choose another in the brief, or bring it back in the data set.',
  });
}
