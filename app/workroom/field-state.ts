import type { Field, State } from '#core/value/field/field.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';

/* What is said of a field while it is edited. Pure. */

/** More different values than this are no states. */
export const mostStates = 24;

/** States for the values seen that have none yet, each with its value made readable as its word. */
export function statesFor(states: readonly State[], seen: readonly Cell[]): State[] {
  const known = new Set(states.map(({ value }) => value));
  const values = [...new Set(seen.flatMap((cell) => (cell === null ? [] : [String(cell)])))].filter(
    (value) => !known.has(value) && value.trim() !== '' && value.length <= 200,
  );
  return values.length > mostStates
    ? []
    : values.sort().map((value) => ({ value, word: labelOf({ name: value }), tone: 'moving' as const }));
}

/** A field with a part said otherwise; what is empty is not said at all. */
export function withPart<
  K extends 'label' | 'description' | 'unit' | 'format' | 'states' | 'bands' | 'refers',
>(field: Field, part: K, said: Field[K]): Field {
  const { [part]: _, ...rest } = field;
  const isEmpty = said === undefined || said === '' || (Array.isArray(said) && said.length === 0);
  return (isEmpty ? rest : { ...rest, [part]: said }) as Field;
}
