import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { SimpleCalculation } from '#core/ask/measure/schema.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import { written } from '#core/sql/dialect/scalar.ts';
import { type FieldSql, filterSql } from './condition.ts';
import { type Sql, sql } from './fragment.ts';

/** A measure as an aggregate expression. Its own condition becomes a FILTER (ISO/IEC 9075-2), so groups stay whole. */
export function measureSql(measure: PlannedMeasure, fieldSql: FieldSql, dialect: Dialect): Sql {
  const { calculation } = measure;
  const where = measure.where ? filterSql(measure.where, fieldSql, dialect) : null;
  const only = where ? sql` FILTER (WHERE ${where})` : sql``;
  switch (calculation.kind) {
    case 'share': {
      const met = filterSql(calculation.where, fieldSql, dialect);
      const both = where ? sql`${where} AND ${met}` : met;
      return dialect.quotient(dialect.countIf(both), where ? dialect.countIf(where) : sql`count(*)`);
    }
    case 'ratio':
      return dialect.quotient(
        simpleSql(calculation.of, only, where, fieldSql, dialect),
        simpleSql(calculation.to, only, where, fieldSql, dialect),
      );
    case 'filled':
      return sql`count(${fieldSql(calculation.field).value})${only}`;
    case 'about':
      return sql`${dialect.scalar.aboutDistinct(fieldSql(calculation.field).value)}${only}`;
    case 'readable': {
      const { value } = fieldSql(calculation.field);
      const text = sql`trim(${value})`;
      // What is written so begins with a space, digit, sign or point, all before a colon: most texts need no pattern to tell, and
      // a case looks no further than it has to.
      const like = sql`(CASE WHEN ${dialect.scalar.byCode(value)} < ':' THEN ${dialect.scalar.like(text, written[calculation.as])} ELSE FALSE END)`;
      return dialect.countIf(where ? sql`${where} AND ${like}` : like);
    }
    default:
      return simpleSql(calculation, only, where, fieldSql, dialect);
  }
}

function simpleSql(
  calculation: SimpleCalculation,
  only: Sql,
  where: Sql | null,
  fieldSql: FieldSql,
  dialect: Dialect,
): Sql {
  if (calculation.kind === 'count') return where ? dialect.countIf(where) : sql`count(*)`;
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
    case 'first':
    case 'last':
      return dialect.scalar.firstBy(
        value,
        orderedBy(calculation.by, fieldSql, dialect),
        calculation.kind,
        field.type,
        where,
      );
    case 'weighted':
      return weightedSql(calculation, fieldSql, where, dialect);
  }
}

/** Text is put in order by code point, which is the same on every engine. */
function orderedBy(name: string, fieldSql: FieldSql, dialect: Dialect): Sql {
  const { value, field } = fieldSql(name);
  return field.type === 'text' ? dialect.scalar.byCode(value) : value;
}

/** Only records that have both a value and a weight count, above the line and under it. */
function weightedSql(
  { field: name, by }: Extract<SimpleCalculation, { kind: 'weighted' }>,
  fieldSql: FieldSql,
  where: Sql | null,
  dialect: Dialect,
): Sql {
  const [of, weight] = [fieldSql(name), fieldSql(by)];
  const types = [of.field.type, weight.field.type];
  const type = types.includes('float') ? 'float' : types.includes('decimal') ? 'decimal' : 'integer';
  const both = sql`${of.value} IS NOT NULL AND ${weight.value} IS NOT NULL`;
  const only = sql` FILTER (WHERE ${where ? sql`${where} AND ${both}` : both})`;
  const products = dialect.scalar.sumOfProducts(of.value, weight.value, type, only);
  const weights = sql`sum(${weight.value})${only}`;
  return type === 'float' ? sql`${products} / nullif(${weights}, 0)` : dialect.quotient(products, weights);
}
