import type { Field } from '#core/value/field/field.ts';
import { isTemporal } from '#core/value/field/value.ts';

/** Which way an order runs, in the words of what is ordered. */
export function directionWords(
  field: Pick<Field, 'type' | 'states'> | undefined,
  descending: boolean,
): string {
  if (field && isTemporal(field.type)) return descending ? 'latest first' : 'earliest first';
  if (field?.states?.length) return descending ? 'last state first' : 'first state first';
  if (field && (field.type === 'integer' || field.type === 'float' || field.type === 'decimal'))
    return descending ? 'highest first' : 'lowest first';
  if (field?.type === 'boolean') return descending ? 'yes first' : 'no first';
  return descending ? 'Z to A' : 'A to Z';
}
