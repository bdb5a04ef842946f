import type { Field } from '#core/value/field/field.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { FieldSql } from './condition.ts';
import { and, columnList, identifier, join, type Sql, sql } from './fragment.ts';

/**
 * A SELECT that is still open. Steps that work on one record at a time are written into it side by side; it is closed, and
 * a SELECT put around it, only where a value is needed that was made in it, or all records at once. Each level that is
 * saved saves an engine a millisecond or two of planning.
 */
export interface Level {
  /** What is selected from; the records stand under `r`. */
  readonly from: Sql;
  /** Conditions that all have to hold. */
  readonly where: readonly Sql[];
  /** How many other relations are joined on; they stand under `l1`, `l2` … */
  readonly joins: number;
  /** What it yields, by name. */
  readonly columns: ReadonlyMap<string, Column>;
}

/** What is known of the texts that a column holds. */
export interface Texts {
  /** Some may be empty, which count as blanks. */
  readonly mayBeEmpty: boolean;
  /** All that there can be, beside blanks; left out where any can be. */
  readonly words?: readonly string[] | undefined;
}

export interface Column extends Texts {
  readonly value: Sql;
  /** It is a column of what is selected from: writing it more than once costs nothing. */
  readonly plain: boolean;
}

/** Columns of records under an alias, by their own names. */
export function plainColumns(
  alias: Sql,
  names: Iterable<string>,
  texts: (name: string) => Texts,
): Map<string, Column> {
  return new Map(
    [...names].map((name) => [
      name,
      { ...texts(name), value: sql`${alias}.${identifier(name)}`, plain: true },
    ]),
  );
}

/** A level over records that stand by themselves. */
export const levelFrom = (from: Sql, names: Iterable<string>, texts: (name: string) => Texts): Level => ({
  from,
  where: [],
  joins: 0,
  columns: plainColumns(sql`r`, names, texts),
});

/** A condition of several that all have to hold, with its word; nothing where there are none. */
export const whereAll = (conditions: readonly Sql[]): Sql =>
  conditions.length === 0 ? sql`` : sql` WHERE ${join(conditions, and)}`;

/** A level closed: a SELECT of all that it yields. */
export const selectOf = ({ from, where, columns }: Omit<Level, 'joins'>): Sql =>
  sql`SELECT ${columnList([...columns].map(([name, { value }]) => sql`${value} AS ${identifier(name)}`))} FROM ${from}${whereAll(where)}`;

const isPlain = ({ columns }: Level, names: Iterable<string>): boolean =>
  [...names].every((name) => columns.get(name)?.plain !== false);

/** A level in which some fields can be read as often as is wanted: closed first where they were made in it. */
export const readable = (level: Level, names: Iterable<string>): Level =>
  isPlain(level, names)
    ? level
    : levelFrom(sql`(${selectOf(level)}) AS r`, level.columns.keys(), textsIn(level));

export const textsIn =
  ({ columns }: Pick<Level, 'columns'>) =>
  (name: string): Texts => {
    const { mayBeEmpty = true, words } = columns.get(name) ?? {};
    return { mayBeEmpty, words };
  };

/** Throws a {@link ProblemError} for a field that is not there. */
export function requireField(name: string, fields: readonly Field[]): Field {
  const field = fields.find((each) => each.name === name);
  if (field) return field;
  throw new ProblemError({
    code: 'missing',
    doing: 'working out what to ask',
    why: `there is no field “${name}” in this data set`,
    mend: 'Choose another field where this one was used, or bring it back in the data set.',
  });
}

/** Reads fields out of columns. Text that is empty is blank, wherever a field is used. Throws a {@link ProblemError} for a field that is not there. */
export const fieldReader =
  (fields: readonly Field[], columns: ReadonlyMap<string, Column>): FieldSql =>
  (name) => {
    const field = requireField(name, fields);
    const column = columns.get(name);
    if (!column) throw new RangeError(`“${name}” was not asked for`);
    const isEmpty = field.type === 'text' && column.mayBeEmpty;
    const value = isEmpty ? sql`nullif(${column.value}, '')` : column.value;
    return { field, value, asItIs: column.value, words: column.words };
  };
