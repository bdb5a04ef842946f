import { mostDigits } from '#core/dataset/kept/guess.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { totals } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { runPlan } from '../records/run.ts';
import { liveAddress } from '../store/sources.ts';

const doesNotFit = (cell: Cell | undefined): boolean => {
  const text = String(cell ?? '0');
  return !/^-?[0-9.]+$/.test(text) || text.replace(/[^0-9]/g, '').length > mostDigits;
};

/**
 * Decimals of a database that keeping would fail at, by the least and the greatest of each: what is no number (NaN is the
 * greatest there is) and what has too many digits. What the source cannot tell just now stands in nobody's way.
 */
export async function cannotKeep(definition: DataSet): Promise<string[]> {
  const { source, request } = definition;
  const fields = startOf(definition);
  const decimals = fields.filter(({ type }) => type === 'decimal');
  if (decimals.length === 0 || definition.inputs.length > 0 || !(await liveAddress(source))) return [];
  const ends = decimals.flatMap(({ name }) =>
    (['least', 'greatest'] as const).map((kind) => ({
      name: `${kind} ${name}`,
      calculation: { kind, field: name },
    })),
  );
  try {
    const { records } = await runPlan(totals({ source, request, inputs: {}, fields }, 'UTC', ends), {
      doing: 'looking at what is to be kept',
    });
    const [cells = []] = records;
    return decimals.flatMap(({ name }, at) =>
      doesNotFit(cells[2 * at]) || doesNotFit(cells[2 * at + 1])
        ? [
            `“${name}” has values that cannot be kept as decimal, which has ${mostDigits} digits at most: open it under “Fields”, take it as text, and save again`,
          ]
        : [],
    );
  } catch (thrown) {
    if (thrown instanceof ProblemError) return [];
    throw thrown;
  }
}
