import type { Filter } from '#core/ask/condition/resolve.ts';
import type { GroupsPlan } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import { type AddedUp, addedUp, partsOf, wholesOf } from './added-up.ts';
import type { Query } from './compile.ts';
import { filtersSql } from './condition.ts';
import { bind, comma, groupedBy, identifier, join, named, type Sql, sql, toQuery } from './fragment.ts';
import { groupsOf, partsSql } from './groups.ts';
import { fieldReader, whereAll } from './level.ts';
import { neededOf, start } from './start.ts';

/*
 * A tally: what the measures of a plan add up from, for each of its groups and each value of a few other fields. Which of those
 * values are looked at can change, and the plan is answered from the tally, which is far smaller than the records.
 */

/** How a plan is answered by a tally. */
export interface Tally {
  /** What makes it: groups in no order, of which there may be too many. */
  readonly made: Query;
  /** The answer of the plan to the records that pass a filter on the other fields, from a table with what was made. */
  readonly answer: (table: string, where: Filter) => Query;
}

/**
 * The tally of a plan by some other fields, of at most so many groups. Null where a measure cannot be worked out of a tally to the
 * last digit. Throws a {@link ProblemError} where the plan names a field that is not there.
 */
export function tallyOf(
  plan: GroupsPlan,
  fields: readonly string[],
  limit: number,
  dialect: Dialect,
): Tally | null {
  const { fieldSql, from, kept } = start(plan, [...neededOf(plan), ...fields], dialect);
  const found = plan.measures.map((measure) => addedUp(measure, plan.from.fields, fieldSql, dialect));
  const added = found.filter((each): each is AddedUp => each !== null);
  if (added.length < found.length) return null;
  const values = fields.map((name) => fieldSql(name).value);
  const groups = [...named('k', groupsOf(plan, fieldSql, dialect)), ...named('v', values)];
  const columns = join([...groups, ...partsOf(added)], comma);
  const made = sql`SELECT ${columns} FROM ${from}${whereAll(kept)}${groupedBy(groups.length)} LIMIT ${bind('integer', String(limit))}`;
  const column = (letter: string, at: number): Sql => sql`r.${identifier(`${letter}${at}`)}`;
  const read = fieldReader(
    plan.from.fields,
    new Map(fields.map((name, at) => [name, { value: column('v', at), plain: true, mayBeEmpty: false }])),
  );
  const measures = wholesOf(added);
  return {
    made: toQuery(made, dialect.placeholder),
    answer: (table, where) =>
      toQuery(
        partsSql(
          plan,
          {
            groups: plan.by.map((_, at) => column('k', at)),
            measures,
            from: sql`${dialect.kept(table)} AS r`,
            kept: filtersSql(where, read, dialect),
            bySets: () => ({
              columns: named(
                'p',
                added.flatMap(({ parts }) => parts).map((_, at) => column('p', at)),
              ),
              measured: ({ records }) => ({ from: records, measures }),
            }),
          },
          dialect,
        ),
        dialect.placeholder,
      ),
  };
}
