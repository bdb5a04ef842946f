import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { FieldSql } from './condition.ts';
import { type Sql, sql } from './fragment.ts';

/** Terms of an order by which no records are tied that differ in any of some fields: the quickest there is, whatever it looks like. */
export const tiesSql = (names: readonly string[], fieldSql: FieldSql, { scalar }: Dialect): Sql[] =>
  names.map((name) => {
    const { value, field } = fieldSql(name);
    const isText = field.type === 'text' || field.type === 'nested';
    return sql`${isText ? scalar.byCode(value) : value} NULLS LAST`;
  });
