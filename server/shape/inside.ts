import { findMembers, memberText } from '#core/dataset/http/members.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf, parseValue } from '#core/value/field/value.ts';
import { runPlan } from '../records/run.ts';
import { relationAfter, type Shaping } from './shaping.ts';

export interface FoundPath {
  readonly path: string;
  readonly name: string;
  readonly type: Field['type'];
}

/** What is inside a field of lists or objects. */
export interface Inside {
  readonly kind: 'list' | 'object' | 'mixed' | 'empty';
  /** Members of the objects, or of the objects in the lists. */
  readonly members: readonly FoundPath[];
}

/** What there is inside the lists or objects of a field, from the first records that have some. */
export async function insideOf(shaping: Shaping, steps: number, name: string): Promise<Inside> {
  const from = relationAfter(shaping, steps);
  const { records } = await runPlan(
    {
      kind: 'records',
      from,
      zone: shaping.clock.zone,
      where: { field: name, test: { op: 'filled' } },
      fields: [name],
      order: [],
      offset: 0,
      limit: 500,
    },
    { doing: `looking into ${labelOf({ name })}`, signal: shaping.signal },
  );
  return inside(records.map(([cell]) => String(cell ?? '')));
}

function inside(texts: readonly string[]): Inside {
  const values = texts.flatMap((text): unknown[] => {
    try {
      return [JSON.parse(text)];
    } catch {
      return [];
    }
  });
  const lists = values.filter((value) => Array.isArray(value));
  const objects = values.filter(
    (value) => value !== null && typeof value === 'object' && !Array.isArray(value),
  );
  const kind =
    lists.length + objects.length === 0
      ? 'empty'
      : lists.length === 0
        ? 'object'
        : objects.length === 0
          ? 'list'
          : 'mixed';
  const items = kind === 'list' ? lists.flat() : objects;
  const members = findMembers(items.filter((item) => item !== null && typeof item === 'object'));
  const scalars = items.filter((item) => item !== null && typeof item !== 'object').map(String);
  const typed = (found: readonly (string | null)[]): Field['type'] => {
    const filled = found.filter((text): text is string => text !== null && text !== '');
    if (filled.length === 0) return 'text';
    if (filled.every((text) => /^[[{]/.test(text))) return 'nested';
    for (const type of ['integer', 'decimal', 'boolean', 'date', 'instant'] as const) {
      const isPadded = filled.some((text) => /^[+-]?0\d/.test(text));
      if (
        !(isPadded && (type === 'integer' || type === 'decimal')) &&
        filled.every((text) => parseValue(type, text).ok)
      )
        return type;
    }
    return 'text';
  };
  return {
    kind,
    members:
      scalars.length > 0 && members.length === 0
        ? [{ path: '', name: 'item', type: typed(scalars) }]
        : members.map(({ column, name }) => ({
            path: column,
            name,
            type: typed(items.map((item) => memberText(item, column))),
          })),
  };
}
