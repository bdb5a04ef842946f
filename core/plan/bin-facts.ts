import type { FilterTest } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { type BinFacts, binsFor } from '#core/value/bins/bins.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { type GroupsPlan, totals } from './plan.ts';

/** A float that is a number. */
const isNumber: FilterTest = {
  op: 'between',
  from: '-1.7976931348623157e308',
  to: '1.7976931348623157e308',
};

/** What the records of a plan have of a field. */
export interface NumberFacts extends BinFacts {
  /** How many records there are, as exact text. */
  readonly count: string;
}

/** What to ask before numbers are counted in ranges: what those are chosen by. */
export function binFacts(
  { from, zone, where }: Pick<GroupsPlan, 'from' | 'zone' | 'where'>,
  { name: field, type }: Pick<Field, 'name' | 'type'>,
): {
  readonly plan: GroupsPlan;
  readonly read: (records: readonly (readonly Cell[])[] | undefined) => NumberFacts;
  readonly bins: (facts: NumberFacts, width?: string) => Bins | null;
} {
  const calculations: PlannedMeasure['calculation'][] = [
    { kind: 'least', field },
    { kind: 'greatest', field },
    { kind: 'percentile', field, at: 1 },
    { kind: 'percentile', field, at: 99 },
  ];
  const measures = calculations.map(
    (calculation, at): PlannedMeasure => ({
      name: `fact ${at}`,
      calculation,
      ...(type === 'float' ? { where: { field, test: isNumber } } : {}),
    }),
  );
  return {
    plan: totals(from, zone, [{ name: 'count', calculation: { kind: 'count' } }, ...measures], where),
    read: (records) => {
      const [count = null, least = null, greatest = null, low = null, high = null] = records?.[0] ?? [];
      return { count: String(count ?? '0'), least, greatest, low, high };
    },
    bins: (facts, width) => binsFor(facts, type, width),
  };
}
