import type { Field } from '#core/field/field.ts';
import { ProblemError } from '#core/problem/problem.ts';
import type { FieldSql } from './condition.ts';
import { identifier, type Sql, sql } from './fragment.ts';

/**
 * Reads fields of records that stand under an alias. Text that is empty is blank, wherever a field is used. Throws a
 * {@link ProblemError} for a field that is not there.
 */
export const fieldReader =
  (of: Sql, fields: readonly Field[]): FieldSql =>
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
    return { field, value: field.type === 'text' ? sql`nullif(${column}, '')` : column };
  };
