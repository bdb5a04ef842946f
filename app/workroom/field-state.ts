import {
  colourNames,
  type Field,
  mostColours,
  type State,
  type ValueColour,
} from '#core/value/field/field.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';

/* What is said of a field while it is edited. Pure. */

/** More different values than this are no states. */
export const mostStates = 24;

/** The values seen that are not among those known, each once, as texts; none where there are too many. */
function newValues(
  known: readonly { readonly value: string }[],
  seen: readonly Cell[],
  most: number,
): string[] {
  const taken = new Set(known.map(({ value }) => value));
  const values = [...new Set(seen.flatMap((cell) => (cell === null ? [] : [String(cell)])))].filter(
    (value) => !taken.has(value) && value.trim() !== '' && value.length <= 200,
  );
  return values.length > most ? [] : values.sort();
}

/** Colours for the values seen that have none yet, one after the other of the set. */
export const coloursFor = (colours: readonly ValueColour[], seen: readonly Cell[]): ValueColour[] =>
  newValues(colours, seen, mostColours - colours.length).map((value, at) => ({
    value,
    colour: 1 + ((colours.length + at) % colourNames.length),
  }));

/** States for the values seen that have none yet, each with its value made readable as its word. */
export function statesFor(states: readonly State[], seen: readonly Cell[]): State[] {
  return newValues(states, seen, mostStates).map((value) => ({
    value,
    word: labelOf({ name: value }),
    tone: 'moving' as const,
  }));
}

/** A field with a part said otherwise; what is empty is not said at all. */
export function withPart<
  K extends 'label' | 'description' | 'unit' | 'group' | 'format' | 'states' | 'colours' | 'bands' | 'refers',
>(field: Field, part: K, value: Field[K]): Field {
  const { [part]: _, ...rest } = field;
  const isEmpty = value === undefined || value === '' || (Array.isArray(value) && value.length === 0);
  return (isEmpty ? rest : { ...rest, [part]: value }) as Field;
}
