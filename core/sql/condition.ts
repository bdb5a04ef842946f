import { type Filter, type FilterTest, isUnset } from '#core/condition/resolve.ts';
import type { Field } from '#core/field/field.ts';
import type { Dialect } from './dialect.ts';
import { and, bind, join, or, type Sql, sql } from './fragment.ts';

/** What compiling needs to know of a field: how it is written in SQL, and its type. */
export type FieldSql = (name: string) => { value: Sql; field: Field };

const always = sql`TRUE`;
const never = sql`FALSE`;

/** A filter as a boolean expression that is never unknown: every blank is decided (see design.md, "Blanks"). */
export function filterSql(filter: Filter, fieldSql: FieldSql, dialect: Dialect): Sql {
  const each = (parts: readonly Filter[]): Sql[] => parts.map((part) => filterSql(part, fieldSql, dialect));
  if ('all' in filter) return filter.all.length === 0 ? always : sql`(${join(each(filter.all), and)})`;
  if ('any' in filter) return filter.any.length === 0 ? always : sql`(${join(each(filter.any), or)})`;
  if ('none' in filter)
    return filter.none.length === 0 ? always : sql`(NOT (${join(each(filter.none), or)}))`;
  const { value, field } = fieldSql(filter.field);
  return testSql(filter.test, value, field, dialect);
}

function testSql(test: FilterTest, value: Sql, field: Field, dialect: Dialect): Sql {
  if (isUnset(test)) return always;
  const bound = (text: string): Sql => bind(field.type, text);
  const filled = sql`${value} IS NOT NULL`;
  const known = (condition: Sql): Sql => sql`(${filled} AND ${condition})`;
  switch (test.op) {
    case 'is':
      return isAnyOf(test.values, value, field, dialect);
    case 'isNot':
      return sql`(NOT ${isAnyOf(test.values, value, field, dialect)})`;
    case 'same':
      return test.value === null ? sql`(${value} IS NULL)` : known(sql`${value} = ${bound(test.value)}`);
    case 'blank':
      return sql`(${value} IS NULL)`;
    case 'filled':
      return sql`(${filled})`;
    case 'contains':
      return known(dialect.matches(value, test.text, 'anywhere'));
    case 'lacks':
      return sql`(NOT ${known(dialect.matches(value, test.text, 'anywhere'))})`;
    case 'startsWith':
      return known(dialect.matches(value, test.text, 'start'));
    case 'endsWith':
      return known(dialect.matches(value, test.text, 'end'));
    case 'atMost':
      return known(sql`${value} <= ${bound(test.value)}`);
    case 'atLeast':
      return known(sql`${value} >= ${bound(test.value)}`);
    case 'below':
      return known(sql`${value} < ${bound(test.value)}`);
    case 'above':
      return known(sql`${value} > ${bound(test.value)}`);
    case 'between':
      return known(sql`${value} >= ${bound(test.from)} AND ${value} <= ${bound(test.to)}`);
    case 'within': {
      const ends = [
        ...(test.from === null ? [] : [sql`${value} >= ${bound(test.from)}`]),
        ...(test.to === null ? [] : [sql`${value} < ${bound(test.to)}`]),
      ];
      return known(join(ends, and));
    }
  }
}

function isAnyOf(values: readonly (string | null)[], value: Sql, field: Field, dialect: Dialect): Sql {
  const named = values.filter((each): each is string => each !== null);
  const isText = field.type === 'text' || field.type === 'nested';
  const one = isText
    ? dialect.isOneOf(
        dialect.folded(value),
        field.type,
        named.map((each) => each.toLowerCase()),
      )
    : dialect.isOneOf(value, field.type, named);
  const some = named.length === 0 ? never : sql`(${value} IS NOT NULL AND ${one})`;
  return named.length === values.length ? some : sql`(${value} IS NULL OR ${some})`;
}
