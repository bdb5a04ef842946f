import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { measureFields } from '#core/ask/measure/calculation.ts';
import type { Plan } from '#core/plan/plan.ts';
import { type InstantSpan, spanWithin } from '#core/plan/span.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import { type FieldSql, filtersSql } from './condition.ts';
import { comma, join, type Sql, sql } from './fragment.ts';
import { fieldReader, readable, requireField } from './level.ts';
import { isAsFetched, shapedLevel } from './steps.ts';

/* What plans of every kind begin with: their records, and what they read of them. */

/** The records of a plan with the fields that it needs: how they are read, and the conditions that keep them, its own too. */
export interface Started {
  readonly fieldSql: FieldSql;
  readonly from: Sql;
  readonly kept: readonly Sql[];
}

/** All fields that are needed can be read as often as is wanted, except for those that are `shown` and no more. */
export function start(
  plan: Plan,
  needed: readonly string[],
  dialect: Dialect,
  shown: readonly string[] = [],
): Started {
  const all = new Set([...needed, ...shown]);
  for (const name of all) requireField(name, plan.from.fields);
  const { from, where, columns } = readable(shapedLevel(plan.from, all, dialect, plan.zone), needed);
  const fieldSql = fieldReader(plan.from.fields, columns);
  return { fieldSql, from, kept: [...where, ...filtersSql(plan.where, fieldSql, dialect)] };
}

/** The fields that a plan reads, each once. */
export function neededOf(plan: Plan): string[] {
  const of =
    plan.kind === 'records'
      ? [...plan.fields, ...plan.order.map(({ by }) => by), ...(plan.key === undefined ? [] : [plan.key])]
      : [...plan.by.map(({ field }) => field), ...plan.measures.flatMap(measureFields)];
  return [...new Set([...of, ...fieldsOf(plan.where)])];
}

/** Between which instants those of a field are in the records of a plan. What is known of that is known of the request's. */
export const spanOf = ({ from, where }: Plan, name: string): InstantSpan | undefined =>
  spanWithin(where, name, isAsFetched(from, name) ? from.spans?.[name] : undefined);

/** The order of a SELECT, by terms; none where there are none. */
export const orderSql = (terms: readonly Sql[]): Sql =>
  terms.length > 0 ? sql` ORDER BY ${join(terms, comma)}` : sql``;
