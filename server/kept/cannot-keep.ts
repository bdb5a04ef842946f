import { mostDigits } from '#core/dataset/kept/guess.ts';
import { startOf } from '#core/dataset/outcome.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import { extend, totals } from '#core/plan/plan.ts';
import { planSteps } from '#core/plan/relation.ts';
import type { Cell } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { runPlan } from '../records/run.ts';
import { liveAddress } from '../store/sources.ts';

/** The field that says how many digits a decimal has. */
const digitsOf = (at: number): string => `digits ${at}`;

/** The digits of a decimal as it is written: its point and its sign are none. */
const countDigits = (name: string, at: number): Step => ({
  kind: 'derive',
  id: `digits-${at}`,
  name: digitsOf(at),
  making: {
    kind: 'expression',
    text: `CHAR_LENGTH(REPLACE(REPLACE(CAST("${name.replaceAll('"', '""')}" AS VARCHAR), '.', ''), '-', ''))`,
  },
});

/** NaN, which is the greatest there is, and the infinities. */
const isNoNumber = (cell: Cell | undefined): boolean => !/^-?[0-9.]+$/.test(String(cell ?? '0'));

/**
 * Decimals of a database that keeping would fail at: those of which one has too many digits, or is no number. What the source cannot
 * tell just now stands in nobody's way.
 */
export async function cannotKeep(definition: DataSet): Promise<string[]> {
  const { source, request } = definition;
  const fields = startOf(definition);
  const decimals = fields.filter(({ type }) => type === 'decimal');
  if (decimals.length === 0 || definition.inputs.length > 0 || !(await liveAddress(source))) return [];
  const measures = decimals.flatMap(({ name }, at) =>
    [
      ['least', name],
      ['greatest', name],
      ['greatest', digitsOf(at)],
    ].map(([kind, field]) => ({
      name: `${kind} ${field}`,
      calculation: { kind: kind as 'least' | 'greatest', field: field as string },
    })),
  );
  try {
    const clock = { now: new Date(), zone: 'UTC' };
    const steps = decimals.map(({ name }, at) => countDigits(name, at));
    const from = extend(
      { source, request, inputs: {}, fields },
      planSteps(fields, steps, {}, { world: new Map(), clock }),
    );
    const { records } = await runPlan(totals(from, clock.zone, measures), {
      doing: 'looking at what is to be kept',
    });
    const [cells = []] = records;
    return decimals.flatMap(({ name }, at) => {
      const [least, greatest, digits] = cells.slice(3 * at, 3 * at + 3);
      return isNoNumber(least) || isNoNumber(greatest) || Number(digits ?? 0) > mostDigits
        ? [
            `“${name}” has values that cannot be kept as decimal, which has ${mostDigits} digits at most: open it under “Fields”, take it as text, and save again`,
          ]
        : [];
    });
  } catch (thrown) {
    if (thrown instanceof ProblemError) return [];
    throw thrown;
  }
}
