import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { calculationType, measureFields } from '#core/ask/measure/calculation.ts';
import type { GroupsPlan, Order, Plan, RecordsPlan, Relation } from '#core/plan/plan.ts';
import type { Dialect, InstantSpan } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { parseValue } from '#core/value/field/value.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { type FieldSql, filtersSql } from './condition.ts';
import {
  bind,
  columnList,
  comma,
  groupedBy,
  identifier,
  join,
  ordinal,
  type Sql,
  sql,
  toQuery,
} from './fragment.ts';
import {
  fieldReader,
  type Level,
  levelFrom,
  mayBeEmptyIn,
  readable,
  requireField,
  selectOf,
  whereAll,
} from './level.ts';
import { measureSql } from './measure.ts';
import { isAsFetched, laterSteps, shapedLevel, steppedLevel } from './steps.ts';

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

/** The records of a plan with the fields that it needs: how they are read, and the conditions that keep them, its own too. */
interface Started {
  readonly fieldSql: FieldSql;
  readonly from: Sql;
  readonly kept: readonly Sql[];
}

/** All fields that are needed can be read as often as is wanted, but for those that are `shown` and no more. */
function start(
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

/** A plan's records in their order, all of them, as one query. */
export function compileOrdered(plan: RecordsPlan, dialect: Dialect): Query {
  return toQuery(recordsSql(plan, dialect, sql``), dialect.placeholder);
}

/** The fields that a plan reads, each once. */
export function neededOf(plan: Plan): string[] {
  const of =
    plan.kind === 'records'
      ? [...plan.fields, ...plan.order.map(({ by }) => by), ...(plan.key === undefined ? [] : [plan.key])]
      : [...plan.by.map(({ field }) => field), ...plan.measures.flatMap(measureFields)];
  return [...new Set([...of, ...fieldsOf(plan.where)])];
}

function recordsSql(plan: RecordsPlan, dialect: Dialect, page = pageSql(plan.limit, plan.offset)): Sql {
  const order: Order[] = [...plan.order];
  if (plan.key !== undefined && !order.some(({ by }) => by === plan.key)) order.push({ by: plan.key });
  const deciding = [...new Set([...order.map(({ by }) => by), ...fieldsOf(plan.where)])];
  const { first, later } = laterSteps(plan.from, deciding);
  const orderedBy = (fieldSql: FieldSql): Sql =>
    orderSql(
      order.flatMap(({ by, descending = false }) => {
        const { value, field } = fieldSql(by);
        const place = statePlace(value, field);
        return [
          ...(place ? [dialect.ordered(place, 'integer', descending)] : []),
          dialect.ordered(value, field.type, descending, isFilled(plan, by)),
        ];
      }),
    );
  const selected = (fieldSql: FieldSql): Sql =>
    columnList(plan.fields.map((name) => sql`${fieldSql(name).value} AS ${identifier(name)}`));
  if (later.length === 0) {
    const { fieldSql, from, kept } = start(plan, deciding, dialect, plan.fields);
    return sql`SELECT ${selected(fieldSql)} FROM ${from}${whereAll(kept)}${orderedBy(fieldSql)}${page}`;
  }
  // The page is cut out first, and what only adds to each record is worked out for its records alone.
  for (const name of [...plan.fields, ...deciding]) requireField(name, plan.from.fields);
  const ordering = order.map(({ by }) => by);
  const cut = (needed: ReadonlySet<string>): Level => {
    const own = shapedLevel(first, new Set([...needed, ...deciding]), dialect, plan.zone);
    const { from, where, columns } = readable(own, deciding);
    const fieldSql = fieldReader(plan.from.fields, columns);
    const kept = [...where, ...filtersSql(plan.where, fieldSql, dialect)];
    const shown = new Map([...columns].filter(([name]) => needed.has(name)));
    const records = sql`${selectOf({ from, where: kept, columns: shown })}${orderedBy(fieldSql)}${page}`;
    return levelFrom(sql`(${records}) AS r`, needed, mayBeEmptyIn({ columns }));
  };
  const wanted = new Set([...plan.fields, ...ordering]);
  const { from, columns } = readable(steppedLevel(later, wanted, cut, dialect, plan.zone), ordering);
  const fieldSql = fieldReader(plan.from.fields, columns);
  return sql`SELECT ${selected(fieldSql)} FROM ${from}${orderedBy(fieldSql)}`;
}

const orderSql = (terms: readonly Sql[]): Sql =>
  terms.length > 0 ? sql` ORDER BY ${join(terms, comma)}` : sql``;
const pageSql = (limit: number, offset: number): Sql =>
  sql` LIMIT ${bind('integer', String(limit))} OFFSET ${bind('integer', String(offset))}`;

function groupsSql(plan: GroupsPlan, dialect: Dialect): Sql {
  const { fieldSql, from, kept } = start(plan, neededOf(plan), dialect);
  const groupValue = (read: FieldSql, index: number): Sql => {
    const group = plan.by[index];
    if (!group) throw new RangeError(`no group ${index}`);
    const { value, field } = read(group.field);
    return group.unit
      ? dialect.periodStart(value, field.type, group.unit, plan.zone, spanOf(plan.from, group.field))
      : value;
  };
  const measures = plan.measures.map((measure) => measureSql(measure, fieldSql, dialect));
  const names = plan.measures.map(
    (_, index) => sql`${measures[index] ?? sql``} AS ${identifier(`m${index}`)}`,
  );
  const groups = plan.by.map((_, index) => groupValue(fieldSql, index));
  const limit = sql` LIMIT ${bind('integer', String(plan.limit))}`;
  if (!plan.top) {
    const columns = [...groups.map((value, index) => sql`${value} AS ${identifier(`g${index}`)}`), ...names];
    return sql`SELECT ${join(columns, comma)} FROM ${from}${whereAll(kept)}${groupedBy(groups.length)}${orderSql(groupOrder(plan, dialect))}${limit}`;
  }
  return topSql(plan, plan.top, { groups, names, from, kept, measures, limit }, dialect);
}

/** Order by output names; groups last, so that equal measures come in the same order every time. */
function groupOrder(plan: GroupsPlan, dialect: Dialect): Sql[] {
  const { fields } = plan.from;
  const typeOf = (group: number, measure: number): FieldType => {
    const grouped = plan.by[group];
    if (grouped?.unit) return 'date';
    if (grouped) return fields.find(({ name }) => name === grouped.field)?.type ?? 'text';
    const calculation = plan.measures[measure]?.calculation;
    return calculation ? calculationType(calculation, fields) : 'integer';
  };
  const term = ({ by, descending }: Order): Sql => {
    const group = /^group:(\d+)$/.exec(by);
    const index = plan.measures.findIndex(({ name }) => name === by);
    const column = group ? `g${group[1]}` : index >= 0 ? `m${index}` : null;
    if (column === null) throw new RangeError(`cannot order by “${by}”`);
    return dialect.ordered(
      identifier(column),
      typeOf(group ? Number(group[1]) : -1, index),
      descending ?? false,
    );
  };
  const rest = plan.by
    .map((_, index) => `group:${index}`)
    .filter((by) => !plan.order.some((order) => order.by === by))
    .map((by) => ({ by }));
  return [...plan.order, ...rest].map(term);
}

/** What is known of a field's instants is known of the request's. */
const spanOf = (relation: Relation, name: string): InstantSpan | undefined =>
  isAsFetched(relation, name) ? relation.spans?.[name] : undefined;

interface Parts {
  readonly groups: readonly Sql[];
  readonly names: readonly Sql[];
  readonly measures: readonly Sql[];
  readonly from: Sql;
  readonly kept: readonly Sql[];
  readonly limit: Sql;
}

/** The largest first; values that measure the same in their own order, so that the same ones are always on top. */
function ranking(plan: GroupsPlan, { measures, groups }: Parts, dialect: Dialect): Sql {
  const calculation = plan.measures[0]?.calculation ?? { kind: 'count' as const };
  const { fields } = plan.from;
  const group = plan.by[0];
  const groupType = group?.unit ? 'date' : fields.find(({ name }) => name === group?.field)?.type;
  return join(
    [
      dialect.ordered(measures[0] ?? sql`count(*)`, calculationType(calculation, fields), true),
      dialect.ordered(groups[0] ?? ordinal(1), groupType ?? 'text', false),
    ],
    comma,
  );
}

/** The place of a value among the states of its field, in the order that they were given; those that are none come after. */
function statePlace(value: Sql, { type, states = [] }: Field): Sql | null {
  const known = states.filter((state) => parseValue(type, state.value).ok);
  if (known.length === 0) return null;
  const places = known.map((state, at) => sql` WHEN ${bind(type, state.value)} THEN ${ordinal(at)}`);
  return sql`(CASE WHEN ${value} IS NOT NULL THEN CASE ${value}${join(places, sql``)} ELSE ${ordinal(known.length)} END END)`;
}

/**
 * The top values are ranked first, then every record is grouped again under its value, under "the rest", or under
 * blank: totals and distinct counts of the rest come from its records, never from adding groups up.
 */
function topSql(
  plan: GroupsPlan,
  top: { count: number; rest: boolean },
  parts: Parts,
  dialect: Dialect,
): Sql {
  const [first, ...others] = parts.groups;
  if (!first) throw new RangeError('the top values need a group');
  const count = bind('integer', String(top.count));
  const ranked = sql`SELECT ${first} AS v FROM ${parts.from}${whereAll([...parts.kept, sql`${first} IS NOT NULL`])} GROUP BY 1 ORDER BY ${ranking(plan, parts, dialect)} LIMIT ${count}`;
  const isRest = sql`(${first} IS NOT NULL AND ${first} NOT IN (SELECT v FROM top))`;
  const columns = [
    sql`${isRest} AS rest`,
    sql`CASE WHEN ${isRest} THEN NULL ELSE ${first} END AS g0`,
    ...others.map((value, index) => sql`${value} AS ${identifier(`g${index + 1}`)}`),
    ...parts.names,
  ];
  const kept = top.rest ? parts.kept : [...parts.kept, sql`NOT ${isRest}`];
  const order = [sql`rest`, ...groupOrder(plan, dialect)];
  return sql`WITH top AS MATERIALIZED (${ranked}) SELECT ${join(columns, comma)} FROM ${parts.from}${whereAll(kept)}${groupedBy(parts.groups.length + 1)}${orderSql(order)}${parts.limit}`;
}
