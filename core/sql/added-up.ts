import type { Filter } from '#core/ask/condition/resolve.ts';
import { calculationType, type PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { SimpleCalculation } from '#core/ask/measure/schema.ts';
import { allOf } from '#core/plan/plan.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldSql } from './condition.ts';
import { identifier, named, type Sql, sql } from './fragment.ts';
import { measureSql } from './measure.ts';

/** A measure of some records, out of what their groups add up to. */
export interface AddedUp {
  /** Aggregates of each group. */
  readonly parts: readonly Sql[];
  /** The measure, given the sum of each of these over all groups. */
  readonly whole: (sums: readonly Sql[]) => Sql;
}

/** How a measure is worked out of the groups that its records are in; null where that is not possible to the last digit. */
export function addedUp(
  { name, calculation, where }: PlannedMeasure,
  fields: readonly Field[],
  fieldSql: FieldSql,
  dialect: Dialect,
): AddedUp | null {
  const part = (calculation: PlannedMeasure['calculation'], only?: Filter): Sql =>
    measureSql({ name, calculation, ...(only ? { where: only } : {}) }, fieldSql, dialect);
  const of = (simple: SimpleCalculation, only?: Filter): AddedUp | null => {
    if (simple.kind === 'count') return { parts: [part(simple, only)], whole: ([sum]) => wholeNumber(sum) };
    if (calculationType(simple, fields) === 'float') return null;
    if (simple.kind === 'sum') return { parts: [part(simple, only)], whole: ([sum = sql`NULL`]) => sum };
    if (simple.kind !== 'average') return null;
    const { field } = simple;
    return {
      parts: [part({ kind: 'sum', field }, only), part({ kind: 'filled', field }, only)],
      whole: ([sum = sql`NULL`, count]) => dialect.quotient(sum, wholeNumber(count)),
    };
  };
  switch (calculation.kind) {
    case 'count':
    case 'sum':
    case 'average':
      return of(calculation, where);
    case 'share': {
      const both = allOf([...(where ? [where] : []), calculation.where]);
      return quotientOf(of({ kind: 'count' }, both), of({ kind: 'count' }, where), dialect);
    }
    case 'ratio':
      return quotientOf(of(calculation.of, where), of(calculation.to, where), dialect);
    default:
      return null;
  }
}

/** The parts of several measures as columns, `p0` and on. */
export const partsOf = (added: readonly AddedUp[]): Sql[] =>
  named(
    'p',
    added.flatMap(({ parts }) => parts),
  );

/** The measures, of groups that have those columns under `r`. */
export function wholesOf(added: readonly AddedUp[]): Sql[] {
  let at = 0;
  return added.map(({ parts: { length }, whole }) => {
    const sums = Array.from({ length }, (_, part) => sql`sum(r.${identifier(`p${at + part}`)})`);
    at += length;
    return whole(sums);
  });
}

/** A sum of counts; of no groups at all it is nought, as a count of no records is. */
const wholeNumber = (sum = sql`0`): Sql => sql`CAST(coalesce(${sum}, 0) AS BIGINT)`;

const quotientOf = (of: AddedUp | null, to: AddedUp | null, dialect: Dialect): AddedUp | null =>
  of && to
    ? {
        parts: [...of.parts, ...to.parts],
        whole: (sums) =>
          dialect.quotient(of.whole(sums.slice(0, of.parts.length)), to.whole(sums.slice(of.parts.length))),
      }
    : null;
