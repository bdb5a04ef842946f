import { findInputs } from '#core/dataset/inputs.ts';
import type { Column, Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { type BoundValue, checkedText, columnList, identifier, join, type Sql, sql } from './fragment.ts';

/** A column of a table as its field reads it, under the field’s name. */
export const columnSql = (
  of: Sql,
  { column, name, type, read }: Column,
  dialect: Pick<Dialect, 'read'>,
): Sql => {
  const value = sql`${of}.${identifier(column)}`;
  const asRead = read ? dialect.read(value, read) : value;
  const isMomentAsText = read === 'utc' && type === 'text';
  return sql`${isMomentAsText ? dialect.read(asRead, 'text') : asRead} AS ${identifier(name)}`;
};

/**
 * A request as a SELECT that yields only the fields named, under their own names. Look-ups join on a key, so each finds
 * one record at most; those not needed are left out.
 */
export function relationSql(
  relation: Relation,
  needed: ReadonlySet<string>,
  dialect: Pick<Dialect, 'read'>,
): Sql {
  const { request } = relation;
  if (request.kind !== 'sql' && request.kind !== 'table')
    throw new ProblemError({
      code: 'missing',
      doing: 'working out what to ask',
      why: 'its records cannot be asked for in SQL',
      mend: 'Keep them, or fetch them first.',
    });
  const wanted = (columns: readonly Column[]): Column[] => columns.filter(({ name }) => needed.has(name));
  if (request.kind === 'sql') {
    const columns = wanted(request.columns).map((column) => columnSql(sql`q`, column, dialect));
    return sql`SELECT ${columnList(columns)} FROM (
${textSql(request.text, relation.inputs)}
) AS q`;
  }
  const used = usedLookUps(request, needed);
  const columns = [
    ...wanted(request.columns).map((column) => columnSql(sql`t`, column, dialect)),
    ...used.flatMap((lookUp) =>
      wanted(lookUp.take).map((column) => columnSql(identifier(`look ${lookUp.as}`), column, dialect)),
    ),
  ];
  const joins = used.map(({ as, from, by, schema, table, key }) => {
    const alias = identifier(`look ${as}`);
    const start = from === undefined ? sql`t` : identifier(`look ${from}`);
    return sql` LEFT JOIN ${identifier(schema)}.${identifier(table)} AS ${alias} ON ${alias}.${identifier(key)} = ${start}.${identifier(by)}`;
  });
  return sql`SELECT ${columnList(columns)} FROM ${identifier(request.schema)}.${identifier(request.table)} AS t${join(joins, sql``)}`;
}

/** The look-ups that yield a needed field, and the ones those start from, in the order they were declared. */
function usedLookUps(request: Extract<Request, { kind: 'table' }>, needed: ReadonlySet<string>) {
  const used = new Set<string>();
  for (const lookUp of [...request.lookUps].reverse())
    if (used.has(lookUp.as) || lookUp.take.some(({ name }) => needed.has(name))) {
      used.add(lookUp.as);
      if (lookUp.from !== undefined) used.add(lookUp.from);
    }
  return request.lookUps.filter(({ as }) => used.has(as));
}

/** An analyst's SELECT with each `:name` bound. A name without a value is bound as blank. */
export function textSql(text: string, inputs: Relation['inputs']): Sql {
  const pieces: string[] = [];
  const values: BoundValue[] = [];
  let at = 0;
  for (const found of findInputs(text)) {
    pieces.push(text.slice(at, found.from));
    values.push({ type: inputs[found.name]?.type ?? 'text', value: inputs[found.name]?.value ?? null });
    at = found.to;
  }
  pieces.push(text.slice(at).replace(/[;\s]+$/, ''));
  return checkedText(pieces, values);
}
