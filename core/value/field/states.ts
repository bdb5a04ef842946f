import type { Field } from './field.ts';
import type { Cell } from './value.ts';

/** Where a value stands in the order that the analyst gave a field's states; what is none of them stands after all. */
export function placeInStates(cell: Cell | undefined, states: Field['states'] = []): number {
  const at = states.findIndex(({ value }) => value === String(cell));
  return at < 0 ? states.length : at;
}
