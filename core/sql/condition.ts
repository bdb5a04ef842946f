import { type Filter, type FilterTest, isUnset } from '#core/ask/condition/resolve.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import type { Field } from '#core/value/field/field.ts';
import { and, bind, join, or, type Sql, sql } from './fragment.ts';

/**
 * What compiling needs to know of a field: how it is written in SQL, and its type. `asItIs` is its column, in which an empty text is not
 * blank yet: what is compared with other texts alone comes to the same, and databases can compare it before they join. `words` are all
 * that it can be, where that is known.
 */
export type FieldSql = (name: string) => {
  value: Sql;
  asItIs: Sql;
  field: Field;
  words?: readonly string[] | undefined;
};

const isText = (type: Field['type']): boolean => type === 'text' || type === 'nested';
const always = sql`TRUE`;
const never = sql`FALSE`;

/** A filter as a boolean expression that is never unknown: every blank is decided (see design.md, "Blanks"). */
export function filterSql(filter: Filter, fieldSql: FieldSql, dialect: Dialect): Sql {
  const each = (parts: readonly Filter[]): Sql[] => parts.map((part) => filterSql(part, fieldSql, dialect));
  if ('all' in filter) return filter.all.length === 0 ? always : sql`(${join(each(filter.all), and)})`;
  if ('any' in filter) return filter.any.length === 0 ? always : sql`(${join(each(filter.any), or)})`;
  if ('none' in filter)
    return filter.none.length === 0 ? always : sql`(NOT (${join(each(filter.none), or)}))`;
  const { test } = filter;
  const { value, asItIs, field, words } = fieldSql(filter.field);
  if (test.op === 'against') return againstSql(test, value, field, fieldSql, dialect);
  const isOfTexts = (test.op === 'is' || test.op === 'isNot') && test.values.every(Boolean);
  if (isOfTexts && words && !isUnset(test)) return isOfWords(test, words, asItIs, field, dialect);
  return testSql(test, isOfTexts ? asItIs : value, field, dialect);
}

/** A test of texts on a field that can be some words only: which of them are meant is known, whatever their case, before one is looked at. */
function isOfWords(
  { op, values }: Extract<FilterTest, { op: 'is' | 'isNot' }>,
  words: readonly string[],
  value: Sql,
  field: Field,
  dialect: Dialect,
): Sql {
  const asked = new Set(values.map((each) => each?.toLowerCase()));
  const meant = [...new Set(words)].filter((word) => asked.has(word.toLowerCase()));
  const [only, ...others] = meant;
  if (op === 'isNot' && only !== undefined && others.length === 0)
    return sql`(${value} IS DISTINCT FROM ${bind(field.type, only)})`;
  const isMeant = isAnyOf(meant, value, field, dialect, false);
  return op === 'is' ? isMeant : sql`(NOT ${isMeant})`;
}

/** A filter as conditions that all have to hold: none where it keeps everything. */
export const filtersSql = (filter: Filter, fieldSql: FieldSql, dialect: Dialect): Sql[] =>
  'all' in filter && filter.all.length === 0 ? [] : [filterSql(filter, fieldSql, dialect)];

/** Blanks are decided here too: what is blank is the same as nothing, and differs from everything that is not. */
function againstSql(
  { is, to }: Extract<FilterTest, { op: 'against' }>,
  value: Sql,
  field: Field,
  fieldSql: FieldSql,
  dialect: Dialect,
): Sql {
  if ('value' in to && to.value === null) return always;
  const other = 'field' in to ? fieldSql(to.field).value : bind(field.type, to.value);
  const folded = (each: Sql): Sql => (isText(field.type) ? dialect.folded(each) : each);
  const ordered = (each: Sql): Sql => (isText(field.type) ? dialect.scalar.byCode(each) : each);
  const both = (condition: Sql): Sql => sql`(${value} IS NOT NULL AND ${other} IS NOT NULL AND ${condition})`;
  const equal = both(sql`${folded(value)} = ${folded(other)}`);
  switch (is) {
    case 'same':
      return equal;
    case 'differs':
      return sql`(NOT ${equal})`;
    case 'atMost':
      return both(sql`${ordered(value)} <= ${ordered(other)}`);
    case 'atLeast':
      return both(sql`${ordered(value)} >= ${ordered(other)}`);
    case 'below':
      return both(sql`${ordered(value)} < ${ordered(other)}`);
    case 'above':
      return both(sql`${ordered(value)} > ${ordered(other)}`);
  }
}

function testSql(
  test: Exclude<FilterTest, { op: 'against' }>,
  value: Sql,
  field: Field,
  dialect: Dialect,
): Sql {
  if (isUnset(test)) return always;
  const bound = (text: string): Sql => bind(field.type, text);
  const filled = sql`${value} IS NOT NULL`;
  const known = (condition: Sql): Sql => sql`(${filled} AND ${condition})`;
  switch (test.op) {
    case 'is':
      return isAnyOf(test.values, value, field, dialect);
    case 'among':
      return isAnyOf(test.values, value, field, dialect, false);
    case 'isNot': {
      const [only, ...others] = test.values;
      return typeof only === 'string' && others.length === 0
        ? isDistinct(only, value, field, dialect)
        : sql`(NOT ${isAnyOf(test.values, value, field, dialect)})`;
    }
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
    case 'cycle':
      return known(
        sql`${dialect.cyclePart(value, field.type, test.cycle, test.zone)} = ${bind('integer', test.value)}`,
      );
    case 'bin': {
      const number = dialect.binNumber(value, field.type, test.bins);
      return test.value === null
        ? sql`(${number} IS NULL)`
        : known(sql`${number} = ${bind('integer', test.value)}`);
    }
    case 'within': {
      const ends = [
        ...(test.from === null ? [] : [sql`${value} >= ${bound(test.from)}`]),
        ...(test.to === null ? [] : [sql`${value} < ${bound(test.to)}`]),
      ];
      return known(join(ends, and));
    }
  }
}

/** Other than one value, as what is blank is: in one comparison, which is quicker than two. */
function isDistinct(other: string, value: Sql, { type }: Field, dialect: Dialect): Sql {
  return isText(type)
    ? sql`(${dialect.folded(value)} IS DISTINCT FROM ${bind(type, other.toLowerCase())})`
    : sql`(${value} IS DISTINCT FROM ${bind(type, other)})`;
}

function isAnyOf(
  values: readonly (string | null)[],
  value: Sql,
  field: Field,
  dialect: Dialect,
  isFolded = isText(field.type),
): Sql {
  const named = values.filter((each): each is string => each !== null);
  const one = isFolded
    ? dialect.isOneOf(
        dialect.folded(value),
        field.type,
        named.map((each) => each.toLowerCase()),
      )
    : dialect.isOneOf(value, field.type, named);
  const some = named.length === 0 ? never : sql`(${value} IS NOT NULL AND ${one})`;
  return named.length === values.length ? some : sql`(${value} IS NULL OR ${some})`;
}
