import type { Cell } from '#core/value/field/value.ts';

/**
 * What rows are told apart by: a row is its record's, wherever that stands by now, so that what somebody has begun to change in it never
 * becomes another's. Records without a key, or with that of one before, are told apart by their place as well.
 */
export function rowIdsOf(records: readonly (readonly Cell[])[], keyAt: number): string[] {
  const seen = new Set<string>();
  return records.map((record, index) => {
    const key = record[keyAt] ?? null;
    const name = key === null || seen.has(String(key)) ? `${String(key)} at ${index}` : String(key);
    seen.add(name);
    return name;
  });
}
