import type { Field } from '#core/field/field.ts';
import type { Relation } from '#core/plan/plan.ts';
import { ProblemError } from '#core/problem/problem.ts';
import type { FieldSql } from './condition.ts';
import { identifier, type Sql, sql } from './fragment.ts';

/** Kept records are written with blanks for empty texts, so what comes straight from them needs no look at each text. */
const hasEmptyTexts = ({ request, steps = [] }: Relation): boolean =>
  request.kind !== 'kept' || steps.length > 0;

/** {@link fieldReader} of the records of a relation. */
export const relationReader = (of: Sql, relation: Relation): FieldSql =>
  fieldReader(of, relation.fields, hasEmptyTexts(relation));

/**
 * Reads fields of records that stand under an alias. Text that is empty is blank, wherever a field is used; where none can
 * be, `mayBeEmpty` is false. Throws a {@link ProblemError} for a field that is not there.
 */
export const fieldReader =
  (of: Sql, fields: readonly Field[], mayBeEmpty = true): FieldSql =>
  (name) => {
    const field = fields.find((each) => each.name === name);
    if (!field)
      throw new ProblemError({
        code: 'missing',
        doing: 'working out what to ask',
        why: `there is no field “${name}” in this data set`,
        mend: 'Choose another field where this one was used, or bring it back in the data set.',
      });
    const column = sql`${of}.${identifier(name)}`;
    return { field, value: field.type === 'text' && mayBeEmpty ? sql`nullif(${column}, '')` : column };
  };
