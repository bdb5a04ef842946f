import { fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Plan, RecordOrder, RecordsPlan } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import { parseValue } from '#core/value/field/value.ts';
import { type FieldSql, filtersSql } from './condition.ts';
import { bind, columnList, identifier, join, ordinal, type Sql, sql, toQuery } from './fragment.ts';
import { groupsSql } from './groups.ts';
import {
  fieldReader,
  type Level,
  levelFrom,
  readable,
  requireField,
  selectOf,
  textsIn,
  whereAll,
} from './level.ts';
import { orderSql, spanOf, start } from './start.ts';
import { laterSteps, shapedLevel, steppedLevel } from './steps.ts';
import { tiesSql } from './ties.ts';

/** A query ready for a driver: SQL text with placeholders, and the values for them in order. */
export interface Query {
  readonly text: string;
  readonly values: readonly (string | null | readonly string[])[];
}

/** Compiles a plan for a dialect. Throws a {@link ProblemError} where the plan names a field that is not there. */
export function compile(plan: Plan, dialect: Dialect): Query {
  const compiled = plan.kind === 'records' ? recordsSql(plan, dialect) : groupsSql(plan, dialect);
  return toQuery(compiled, dialect.placeholder);
}

/** Compiles the number of records a plan would yield over all its pages. */
export function compileCount(plan: RecordsPlan, dialect: Dialect): Query {
  const { from, kept } = start(plan, fieldsOf(plan.where), dialect);
  return toQuery(sql`SELECT count(*) AS n FROM ${from}${whereAll(kept)}`, dialect.placeholder);
}

/** Whether the source promises a value in every record. Text is never sure: what is empty counts as blank. */
function isFilled({ from: { request, fields, steps } }: Plan, name: string): boolean {
  if (steps && steps.length > 0) return false;
  const type = fields.find((field) => field.name === name)?.type;
  if (type === 'text' || request.kind === 'kept') return false;
  return request.columns.find((column) => column.name === name)?.filled ?? false;
}

/** A plan's records in their order, all of them, as one query. */
export function compileOrdered(plan: RecordsPlan, dialect: Dialect): Query {
  return toQuery(recordsSql(plan, dialect, sql``), dialect.placeholder);
}

function recordsSql(plan: RecordsPlan, dialect: Dialect, page = pageSql(plan.limit, plan.offset)): Sql {
  const order: RecordOrder[] = [...plan.order];
  const isWhole = order.some(({ by, unit }) => by === plan.key && unit === undefined);
  if (plan.key !== undefined && !isWhole) order.push({ by: plan.key });
  const deciding = [...new Set([...order.map(({ by }) => by), ...fieldsOf(plan.where)])];
  const { first, later } = laterSteps(plan.from, deciding);
  /** What breaks ties where no key does: records that are alike in all of these cannot be told from each other. */
  const tied = (fields: Iterable<string>): string[] =>
    plan.key !== undefined || order.length === 0
      ? []
      : [...fields].filter((name) => !order.some(({ by, unit }) => by === name && unit === undefined));
  const orderedBy = (fieldSql: FieldSql, ties: readonly Sql[] = []): Sql =>
    orderSql([
      ...order.flatMap(({ by, unit, descending = false }) => {
        const { value, field } = fieldSql(by);
        if (unit)
          return [
            dialect.ordered(
              dialect.periodStart(value, field.type, unit, plan.zone, spanOf(plan, by)),
              'date',
              descending,
              isFilled(plan, by),
            ),
          ];
        const place = statePlace(value, field);
        return [
          ...(place ? [dialect.ordered(place, 'integer', descending)] : []),
          dialect.ordered(value, field.type, descending, isFilled(plan, by)),
        ];
      }),
      ...ties,
    ]);
  const selected = (fieldSql: FieldSql): Sql =>
    columnList(plan.fields.map((name) => sql`${fieldSql(name).value} AS ${identifier(name)}`));
  if (later.length === 0) {
    const ties = tied(plan.fields);
    const { fieldSql, from, kept } = start(plan, [...deciding, ...ties], dialect, plan.fields);
    return sql`SELECT ${selected(fieldSql)} FROM ${from}${whereAll(kept)}${orderedBy(fieldSql, tiesSql(ties, fieldSql, dialect))}${page}`;
  }
  // The page is cut out first, and what only adds to each record is worked out for its records alone.
  for (const name of [...plan.fields, ...deciding]) requireField(name, plan.from.fields);
  const ordering = order.map(({ by }) => by);
  const cut = (needed: ReadonlySet<string>): Level => {
    const own = shapedLevel(first, new Set([...needed, ...deciding]), dialect, plan.zone);
    // What a step would read that another has dropped is not there.
    const ties = tied([...needed].filter((name) => own.columns.has(name)));
    const { from, where, columns } = readable(own, [...deciding, ...ties]);
    const fieldSql = fieldReader(plan.from.fields, columns);
    const broken = tiesSql(ties, fieldReader(later[0]?.before ?? [], columns), dialect);
    const kept = [...where, ...filtersSql(plan.where, fieldSql, dialect)];
    const shown = new Map([...columns].filter(([name]) => needed.has(name)));
    const records = sql`${selectOf({ from, where: kept, columns: shown })}${orderedBy(fieldSql, broken)}${page}`;
    return levelFrom(sql`(${records}) AS r`, needed, textsIn({ columns }));
  };
  const wanted = new Set([...plan.fields, ...ordering]);
  const { from, columns } = readable(steppedLevel(later, wanted, cut, dialect, plan.zone), ordering);
  const fieldSql = fieldReader(plan.from.fields, columns);
  return sql`SELECT ${selected(fieldSql)} FROM ${from}${orderedBy(fieldSql)}`;
}

const pageSql = (limit: number, offset: number): Sql =>
  sql` LIMIT ${bind('integer', String(limit))} OFFSET ${bind('integer', String(offset))}`;

/** The place of a value among the states of its field, in the order that they were given; those that are none come after. */
function statePlace(value: Sql, { type, states = [] }: Field): Sql | null {
  const known = states.filter((state) => parseValue(type, state.value).ok);
  if (known.length === 0) return null;
  const places = known.map((state, at) => sql` WHEN ${bind(type, state.value)} THEN ${ordinal(at)}`);
  return sql`(CASE WHEN ${value} IS NOT NULL THEN CASE ${value}${join(places, sql``)} ELSE ${ordinal(known.length)} END END)`;
}
