import type { Filter } from '#core/ask/condition/resolve.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import { bind, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { relationSql, textSql } from '#core/sql/relation.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { asItIs, casts, type MariaQuery, mariaQuery, valueText } from './dialect.ts';

function conditions(
  where: Filter | undefined,
  columnOf: (field: string) => { column: Sql; type: FieldType } | null,
): Sql[] {
  if (!where) return [];
  if ('all' in where) return where.all.flatMap((each) => conditions(each, columnOf));
  if (!('field' in where)) return [];
  const found = columnOf(where.field);
  const { test } = where;
  const operators = { atLeast: sql`>=`, above: sql`>`, atMost: sql`<=`, below: sql`<` } as const;
  const operator = operators[test.op as keyof typeof operators];
  if (found && operator && 'value' in test && found.type !== 'text')
    return [sql`${found.column} ${operator} ${bind(found.type, test.value)}`];
  if (found && test.op === 'within')
    return [
      ...(test.from === null ? [] : [sql`${found.column} >= ${bind(found.type, test.from)}`]),
      ...(test.to === null ? [] : [sql`${found.column} < ${bind(found.type, test.to)}`]),
    ];
  return [];
}

/** The SELECT of a table request: only the fields wanted, only the records that a filter can be asked to keep to. */
export function tableQuery(
  request: Extract<Request, { kind: 'table' }>,
  fields: readonly { name: string; type: FieldType }[],
  where: Filter | undefined,
  limit: number | undefined,
): MariaQuery {
  const filter = conditions(where, (field) => {
    const type = fields.find(({ name }) => name === field)?.type;
    return type ? { column: sql`r.${identifier(field)}`, type } : null;
  });
  const from = relationSql(
    { source: '', request, inputs: {}, fields: fields as readonly Field[] },
    new Set(fields.map(({ name }) => name)),
    asItIs,
  );
  const columns = fields.map(({ name }) => sql`r.${identifier(name)}`);
  return mariaQuery(
    sql`SELECT ${join(columns, sql`, `)} FROM (${from}) AS r${filter.length > 0 ? sql` WHERE ${join(filter, sql` AND `)}` : sql``}${limit === undefined ? sql`` : sql` LIMIT ${ordinal(limit)}`}`,
  );
}

/** The analyst's SELECT as it stands, which has been checked to be one; its names are quoted in backticks, since its strings may be in double quotes. */
export function textQuery(
  text: string,
  inputs: Relation['inputs'],
  since: { field: string; type: FieldType; value: string; inclusive: boolean } | undefined,
  limit: number | undefined,
): MariaQuery {
  const inner = mariaQuery(textSql(text, inputs));
  const quoted = (name: string): string => `\`${name.replaceAll('`', '``')}\``;
  return {
    text: `SELECT * FROM (\n${inner.text}\n) AS q${since ? ` WHERE q.${quoted(since.field)} ${since.inclusive ? '>=' : '>'} CAST(? AS ${casts[since.type]})` : ''}${limit === undefined ? '' : ` LIMIT ${Math.trunc(limit)}`}`,
    values: [...inner.values, ...(since ? [valueText(since.value)] : [])],
  };
}
