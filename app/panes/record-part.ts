import type { ShownField } from '#core/dashboard/pane/shown.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Part } from './view.ts';

/** The part that picks a record of a list; null where nothing says which record it is. */
export function recordPart(
  dataSet: string,
  key: string | undefined,
  fields: readonly ShownField[],
): (record: readonly Cell[]) => Part | null {
  const at = fields.findIndex(({ name }) => name === key);
  return (record) => {
    const value = record[at] ?? null;
    return key === undefined || value === null ? null : { dataSet, field: key, value: String(value) };
  };
}
