import type { Filter } from '#core/ask/condition/resolve.ts';
import { allOf, type Relation, totals } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Asking } from './records/place.ts';
import { runPlan } from './records/run.ts';

export interface ValueCount {
  readonly value: Cell;
  /** Exact, as text. */
  readonly count: string;
}

/** Values that exist in a field, the most frequent first. */
export interface ValueCounts {
  readonly values: readonly ValueCount[];
  /** There are others beside these. */
  readonly more: boolean;
}

const most = 200;

/**
 * The values of a field with how many records have each, among the records that a condition keeps; with `find` only those
 * that contain it. Values that differ in case only are one, since text matches ignore case.
 */
export async function valueCounts(
  {
    from,
    zone,
    where,
    field,
    find,
  }: {
    from: Relation;
    zone: string;
    where: Filter | null;
    field: string;
    find: string;
  },
  asking: Asking,
): Promise<ValueCounts> {
  const { records } = await runPlan(
    {
      ...totals(from, zone, [{ name: 'count', calculation: { kind: 'count' } }]),
      where: allOf([where, find ? { field, test: { op: 'contains', text: find } } : null]),
      by: [{ field }],
      order: [{ by: 'count', descending: true }],
      limit: most + 1,
    },
    asking,
  );
  const merged = new Map<string, { value: Cell; count: bigint }>();
  for (const [value = null, counted] of records.slice(0, most)) {
    const key = value === null ? '\0' : String(value).toLowerCase();
    const known = merged.get(key);
    merged.set(key, {
      value: known ? known.value : value,
      count: (known?.count ?? 0n) + BigInt(String(counted)),
    });
  }
  return {
    values: [...merged.values()].map(({ value, count }) => ({ value, count: String(count) })),
    more: records.length > most,
  };
}
