import type { Filter } from '#core/ask/condition/resolve.ts';
import type { DataSet } from '#core/dataset/schema.ts';

/** Text search across the fields shown: every word typed must stand in one of them. */
export function searchFilter(
  search: string | undefined,
  fields: readonly string[],
  dataSet: DataSet,
): Filter | null {
  const words = search?.trim().split(/\s+/).filter(Boolean).slice(0, 8) ?? [];
  if (words.length === 0) return null;
  const searched = dataSet.fields.filter(
    ({ name, type }) => fields.includes(name) && (type === 'text' || type === 'integer'),
  );
  return {
    all: words.map((text) => ({
      any: searched.map(({ name }) => ({ field: name, test: { op: 'contains', text } })),
    })),
  };
}
