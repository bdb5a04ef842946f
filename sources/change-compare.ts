import type { Conflict, Values } from '#core/change/change.ts';
import { isSameValue } from '#core/change/same.ts';
import type { Column } from '#core/dataset/schema.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Changing } from './change.ts';

/* What changes are held against, whether they are made together or each by itself. */

/** The type of a column by its name. */
export function typesOf(columns: readonly Column[]): (name: string) => FieldType {
  const types = new Map(columns.map(({ name, type }) => [name, type]));
  return (name) => types.get(name) ?? 'text';
}

/** The records that are not as they were seen, of those that are changed or removed. `now`: how they are, by key. */
export function conflictsOf(
  { changes, columns }: Pick<Changing, 'changes' | 'columns'>,
  now: (key: string) => Values | null,
): Conflict[] {
  const typeOf = typesOf(columns);
  const conflicts: Conflict[] = [];
  for (const change of changes) {
    if (change.way === 'insert') continue;
    const is = now(change.key);
    const isSame =
      is !== null &&
      Object.entries(change.expected).every(([name, saw]) =>
        isSameValue(typeOf(name), is[name] ?? null, saw),
      );
    if (!isSame) conflicts.push({ key: change.key, is });
  }
  return conflicts;
}

/** Values by their columns, in the order of these. */
export const setOf = (values: Values, columns: readonly Column[]): Map<Column, string | null> =>
  new Map(
    columns.flatMap((column) =>
      column.name in values ? [[column, values[column.name] ?? null] as const] : [],
    ),
  );
