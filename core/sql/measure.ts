import type { SimpleCalculation } from '#core/measure/schema.ts';
import type { PlannedMeasure } from '#core/plan/plan.ts';
import { type FieldSql, filterSql } from './condition.ts';
import type { Dialect } from './dialect.ts';
import { type Sql, sql } from './fragment.ts';

/** A measure as an aggregate expression. Its own condition becomes a FILTER (ISO/IEC 9075-2), so groups stay whole. */
export function measureSql(measure: PlannedMeasure, fieldSql: FieldSql, dialect: Dialect): Sql {
  const { calculation } = measure;
  const where = measure.where && filterSql(measure.where, fieldSql, dialect);
  const only = where ? sql` FILTER (WHERE ${where})` : sql``;
  switch (calculation.kind) {
    case 'share': {
      const met = filterSql(calculation.where, fieldSql, dialect);
      const both = where ? sql`${where} AND ${met}` : met;
      return dialect.quotient(sql`count(*) FILTER (WHERE ${both})`, sql`count(*)${only}`);
    }
    case 'ratio':
      return dialect.quotient(
        simpleSql(calculation.of, only, fieldSql, dialect),
        simpleSql(calculation.to, only, fieldSql, dialect),
      );
    default:
      return simpleSql(calculation, only, fieldSql, dialect);
  }
}

function simpleSql(calculation: SimpleCalculation, only: Sql, fieldSql: FieldSql, dialect: Dialect): Sql {
  if (calculation.kind === 'count') return sql`count(*)${only}`;
  const { value, field } = fieldSql(calculation.field);
  switch (calculation.kind) {
    case 'distinct':
      return sql`count(DISTINCT ${value})${only}`;
    case 'sum':
      return sql`sum(${value})${only}`;
    case 'average':
      return dialect.average(value, field.type, only);
    case 'least':
    case 'greatest':
      return dialect.extreme(value, field.type, calculation.kind, only);
    case 'median':
      return dialect.median(value, field.type, only);
    case 'percentile':
      return dialect.percentile(value, calculation.at, only);
  }
}
