import { calculationType, measureFields } from '#core/ask/measure/calculation.ts';
import { type GroupsPlan, isNumbered, type Order } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { addedUp, partsOf, wholesOf } from './added-up.ts';
import type { FieldSql } from './condition.ts';
import {
  bind,
  columnList,
  comma,
  groupedBy,
  identifier,
  join,
  named,
  ordinal,
  type Sql,
  sql,
} from './fragment.ts';
import { fieldReader, whereAll } from './level.ts';
import { measureSql } from './measure.ts';
import { neededOf, orderSql, spanOf, start } from './start.ts';

/** A plan for groups as one query. */
export function groupsSql(plan: GroupsPlan, dialect: Dialect): Sql {
  const { fieldSql, from, kept } = start(plan, neededOf(plan), dialect);
  return partsSql(
    plan,
    {
      groups: groupsOf(plan, fieldSql, dialect),
      measures: plan.measures.map((measure) => measureSql(measure, fieldSql, dialect)),
      from,
      kept,
      bySets: () => ofRecords(plan, fieldSql, dialect),
    },
    dialect,
  );
}

/** The values that the records of a plan are grouped by. */
export const groupsOf = (plan: GroupsPlan, fieldSql: FieldSql, dialect: Dialect): Sql[] =>
  plan.by.map(({ field: name, unit, cycle, bins }) => {
    const { value, field } = fieldSql(name);
    if (bins) return dialect.binNumber(value, field.type, bins);
    if (cycle) return dialect.cyclePart(value, field.type, cycle, plan.zone, spanOf(plan, name));
    return unit ? dialect.periodStart(value, field.type, unit, plan.zone, spanOf(plan, name)) : value;
  });

/** What the groups of a plan are worked out of. */
export interface Parts {
  /** The value of each group. */
  readonly groups: readonly Sql[];
  /** The measures as aggregates. */
  readonly measures: readonly Sql[];
  readonly from: Sql;
  readonly kept: readonly Sql[];
  /** For several sets of groups: what is read besides the groups, and what measures it. */
  readonly bySets: () => BySets;
}

interface BySets {
  readonly columns: readonly Sql[];
  readonly measured: (level: GroupedLevel) => Measured;
}

/** Records with their groups, and what tells the groups of one apart. */
interface GroupedLevel {
  readonly records: Sql;
  readonly isOf: readonly Sql[];
}

/** What several sets of groups are measured of, and the measures. */
interface Measured {
  readonly from: Sql;
  readonly measures: readonly Sql[];
}

/** The groups of a plan, out of parts that come from its records or from a tally of them. */
export function partsSql(plan: GroupsPlan, parts: Parts, dialect: Dialect): Sql {
  const { groups, measures, from, kept } = parts;
  if (plan.sets) return setsSql(plan, plan.sets, parts, dialect);
  if (plan.top) return topSql(plan, plan.top, parts, dialect);
  const columns = [...named('g', groups), ...named('m', measures)];
  return sql`SELECT ${join(columns, comma)} FROM ${from}${whereAll(kept)}${groupedBy(groups.length)}${orderSql(groupOrder(plan, dialect))}${limitSql(plan)}`;
}

const limitSql = ({ limit }: GroupsPlan): Sql => sql` LIMIT ${bind('integer', String(limit))}`;

/** Order by output names; groups last, so that equal measures come in the same order every time. */
function groupOrder(plan: GroupsPlan, dialect: Dialect): Sql[] {
  const { fields } = plan.from;
  const typeOf = (group: number, measure: number): FieldType => {
    const grouped = plan.by[group];
    if (grouped && isNumbered(grouped)) return 'integer';
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

/** The largest first; values that measure the same in their own order, so that the same ones are always on top. */
function ranking(
  plan: GroupsPlan,
  { measures, groups }: Pick<Parts, 'measures' | 'groups'>,
  dialect: Dialect,
): Sql {
  const calculation = plan.measures[0]?.calculation ?? { kind: 'count' as const };
  const { fields } = plan.from;
  const group = plan.by[0];
  const groupType =
    group && isNumbered(group)
      ? 'integer'
      : group?.unit
        ? 'date'
        : fields.find(({ name }) => name === group?.field)?.type;
  return join(
    [
      dialect.ordered(measures[0] ?? sql`count(*)`, calculationType(calculation, fields), true),
      // What is worked out is named by its place: written again it would be another expression, with bound values of its own.
      dialect.ordered(
        group && (group.unit || isNumbered(group)) ? ordinal(1) : (groups[0] ?? ordinal(1)),
        groupType ?? 'text',
        false,
      ),
    ],
    comma,
  );
}

/** The top values of a plan: the query that ranks them, under the name `top`, and whether a record has another. */
function topOf(
  plan: GroupsPlan,
  { count }: { count: number },
  parts: Parts,
  dialect: Dialect,
): { first: Sql; ranked: Sql; isRest: Sql } {
  const [first] = parts.groups;
  if (!first) throw new RangeError('the top values need a group');
  const ranked = sql`SELECT ${first} AS v FROM ${parts.from}${whereAll([...parts.kept, sql`${first} IS NOT NULL`])} GROUP BY 1 ORDER BY ${ranking(plan, parts, dialect)} LIMIT ${bind('integer', String(count))}`;
  return {
    first,
    ranked: sql`WITH top AS MATERIALIZED (${ranked}) `,
    isRest: sql`(${first} IS NOT NULL AND ${first} NOT IN (SELECT v FROM top))`,
  };
}

/**
 * The top values are ranked first, then every record is grouped again under its value, under "the rest", or under
 * blank: totals and distinct counts of the rest come from its records, never from adding groups up.
 */
function topSql(plan: GroupsPlan, top: NonNullable<GroupsPlan['top']>, parts: Parts, dialect: Dialect): Sql {
  if (!top.rest && addsUp(plan)) return topOfGroupsSql(plan, top, parts, dialect);
  const { first, ranked, isRest } = topOf(plan, top, parts, dialect);
  const columns = [
    sql`${isRest} AS rest`,
    sql`CASE WHEN ${isRest} THEN NULL ELSE ${first} END AS g0`,
    ...named('g', parts.groups.slice(1), 1),
    ...named('m', parts.measures),
  ];
  const kept = top.rest ? parts.kept : [...parts.kept, sql`NOT ${isRest}`];
  const order = [sql`rest`, ...groupOrder(plan, dialect)];
  return sql`${ranked}SELECT ${join(columns, comma)} FROM ${parts.from}${whereAll(kept)}${groupedBy(parts.groups.length + 1)}${orderSql(order)}${limitSql(plan)}`;
}

/** Whether the first measure of a value is the sum of what it is of each of its groups, exactly. */
function addsUp({ by, measures, from: { fields } }: GroupsPlan): boolean {
  const calculation = measures[0]?.calculation;
  if (by.length < 2 || !calculation) return false;
  return (
    calculation.kind === 'count' ||
    (calculation.kind === 'sum' && calculationType(calculation, fields) !== 'float')
  );
}

/** The groups of the top values alone: those are ranked by adding their groups up, so that the records are read once. */
function topOfGroupsSql(
  plan: GroupsPlan,
  { count }: NonNullable<GroupsPlan['top']>,
  { groups, measures, from, kept }: Parts,
  dialect: Dialect,
): Sql {
  const columns = [...named('g', groups), ...named('m', measures)];
  const grouped = sql`SELECT ${join(columns, comma)} FROM ${from}${whereAll(kept)}${groupedBy(groups.length)}`;
  const whole = ranking(plan, { measures: [sql`sum(m0)`], groups: [sql`g0`] }, dialect);
  const ranked = sql`SELECT g0 AS v FROM grouped WHERE g0 IS NOT NULL GROUP BY 1 ORDER BY ${whole} LIMIT ${bind('integer', String(count))}`;
  return sql`WITH grouped AS MATERIALIZED (${grouped}), top AS (${ranked}) SELECT FALSE AS rest, grouped.* FROM grouped WHERE g0 IS NULL OR g0 IN (SELECT v FROM top)${orderSql(groupOrder(plan, dialect))}${limitSql(plan)}`;
}

/**
 * The records with their groups worked out are one level, and grouped by all sets at once around it, so that each is read
 * once and an engine sees the same column where a group is named and where it is told which groups a set has.
 */
function setsSql(
  plan: GroupsPlan,
  sets: readonly (readonly number[])[],
  parts: Parts,
  dialect: Dialect,
): Sql {
  const { top } = plan;
  const ranked = top ? topOf(plan, top, parts, dialect) : null;
  const [, ...others] = parts.groups;
  const groups = ranked
    ? [sql`CASE WHEN ${ranked.isRest} THEN NULL ELSE ${ranked.first} END`, ...others]
    : parts.groups;
  const bySets = parts.bySets();
  const columns = [
    ...(ranked ? [sql`${ranked.isRest} AS rest`] : []),
    ...named('g', groups),
    ...bySets.columns,
  ];
  const records = sql`SELECT ${columnList(columns)} FROM ${parts.from}${whereAll(parts.kept)}`;
  const group = (index: number): Sql => sql`r.${identifier(`g${index}`)}`;
  const rest = ranked ? [sql`r.rest AS rest`] : [];
  const groupNames = named(
    'g',
    plan.by.map((_, index) => group(index)),
  );
  const { from, measures } = bySets.measured({ records, isOf: [...rest, ...groupNames] });
  const restOf = (index: number): Sql[] => (ranked && index === 0 ? [sql`r.rest`] : []);
  const setSql = (set: readonly number[]): Sql =>
    sql`(${join(
      set.flatMap((index) => [...restOf(index), group(index)]),
      comma,
    )})`;
  const known = [sql`${setNumber(plan, sets, group)} AS s`, ...rest, ...groupNames, ...named('m', measures)];
  const grouped = sql`SELECT ${join(known, comma)} FROM (${from}) AS r GROUP BY GROUPING SETS (${join(sets.map(setSql), comma)})`;
  const order = [sql`s`, ...(ranked ? [sql`rest`] : []), ...groupOrder(plan, dialect)];
  return sql`${ranked?.ranked ?? sql``}SELECT * FROM (${grouped}) AS q${orderSql(order)}${limitSql(plan)}`;
}

/** Several sets of groups of records, of which the fields are read that the measures need. */
function ofRecords(plan: GroupsPlan, fieldSql: FieldSql, dialect: Dialect): BySets {
  const fields = [...new Set(plan.measures.flatMap(measureFields))];
  const columns = named(
    'f',
    fields.map((name) => fieldSql(name).value),
  );
  const read = fieldReader(
    plan.from.fields,
    new Map(
      fields.map((name, index) => [
        name,
        { value: sql`r.${identifier(`f${index}`)}`, plain: true, mayBeEmpty: false },
      ]),
    ),
  );
  return { columns, measured: (level) => measured(plan, level, read, dialect) };
}

/**
 * What several sets of groups are measured of: the records themselves, or, where all measures add up, their smallest groups, so that
 * the records are grouped once and not by each set. `isOf`: what tells the groups of a record apart.
 */
function measured(
  { measures, from }: GroupsPlan,
  { records, isOf }: GroupedLevel,
  fieldSql: FieldSql,
  dialect: Dialect,
): Measured {
  const added = measures.flatMap((measure) => addedUp(measure, from.fields, fieldSql, dialect) ?? []);
  if (added.length < measures.length)
    return { from: records, measures: measures.map((measure) => measureSql(measure, fieldSql, dialect)) };
  const parts = partsOf(added);
  return {
    from: sql`SELECT ${join([...isOf, ...parts], comma)} FROM (${records}) AS r${groupedBy(isOf.length)}`,
    measures: wholesOf(added),
  };
}

/** Which of the sets a group is of: GROUPING tells by a bit for each group, the last the least, that a set is without it. */
function setNumber(
  { by }: GroupsPlan,
  sets: readonly (readonly number[])[],
  group: (index: number) => Sql,
): Sql {
  const bits = (set: readonly number[]): number =>
    by.reduce((sum, _, index) => sum * 2 + (set.includes(index) ? 0 : 1), 0);
  const cases = sets.map((set, at) => sql` WHEN ${ordinal(bits(set))} THEN ${ordinal(at)}`);
  return sql`CASE GROUPING(${join(
    by.map((_, index) => group(index)),
    comma,
  )})${join(cases, sql``)} END`;
}
