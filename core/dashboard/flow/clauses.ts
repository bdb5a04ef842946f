import type { Test } from '#core/ask/condition/schema.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import type { DataSet, Input } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf, meaningOf } from '#core/value/field/value.ts';
import { counterpart } from './counterpart.ts';

/** The field by which a clause narrows a data set; null where it has no such field, or the clause only gives an input. */
export const clauseField = (clause: Clause, of: DataSet | undefined, inside: DataSet): string | null =>
  of && clause.offer !== 'input' ? counterpart(clause.field, of, inside) : null;

/** What a clause's values are values of: a field of its data set, or an input as if it were one. */
export function clauseSubject(clause: Clause, of: DataSet | undefined): Field | undefined {
  if (clause.offer !== 'input') return of?.fields.find(({ name }) => name === clause.field);
  const input = of?.inputs.find(({ name }) => name === clause.input);
  return input && { name: input.name, type: input.type, label: inputLabel(input) };
}

/** What readers call an input. */
export const inputLabel = ({ name, label }: Pick<Input, 'name' | 'label'>): string =>
  label ?? labelOf({ name });

/** Keeps the records that are the reader's own, by a field that holds who they are. */
export const mineTest = (person: 'email' | 'name'): Test => ({ op: 'against', is: 'same', to: { person } });

/** Whether one value of a clause is given to an input: the clause says so, or has its name or its meaning. */
export function givesInput(
  clause: Clause,
  of: DataSet | undefined,
  input: Pick<Input, 'name' | 'refers' | 'type'>,
): boolean {
  const subject = clauseSubject(clause, of);
  if (clause.offer === 'input') return clause.input === input.name && subject?.type === input.type;
  if (clause.name === input.name) return true;
  return input.refers !== undefined && subject !== undefined && meaningOf(subject) === input.refers;
}
