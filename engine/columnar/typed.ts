import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import { checkedText, comma, identifier, join, type Sql, sql } from '#core/sql/fragment.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { exactJson } from './exact-json.ts';
import { literal, textOf } from './quote.ts';

/* How texts are recognised. RE2 patterns of the whole trimmed text. */

export const integerPattern = sql`'[+-]?[0-9]+'`;
export const decimalPattern = sql`'[+-]?([0-9]+([.][0-9]*)?|[.][0-9]+)'`;
/** NaN and infinity are floats too (IEEE 754), written as databases write them. */
export const floatPattern = sql`'(?i)[-+0-9.e]+|nan|[-+]?inf(inity)?'`;
export const datePattern = sql`'[0-9]{4}-[0-9]{2}-[0-9]{2}'`;
export const instantPattern = sql`'[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}([.,][0-9]+)?)?(Z|[+-][0-9]{2}(:?[0-9]{2})?)'`;
export const paddedPattern = sql`'[+-]?0[0-9]+([.][0-9]*)?'`;

export interface TypedAs {
  readonly name: string;
  readonly type: FieldType;
  readonly scale?: number | undefined;
  readonly digits?: number | undefined;
  /**
   * Also refuses numbers written as codes are (007) and decimals that the scale would round: what only looks like its type
   * in the first records is then found out.
   */
  readonly strictly?: boolean;
  /** The column has values of this type already, not texts. */
  readonly isRead?: boolean;
  /** What becomes of a text that cannot be read: an error unless said otherwise. */
  readonly misfit?: 'error' | 'blank';
}

/** What DuckDB itself makes of a text, worked out once and looked at several times. */
const attempt = (name: string): Sql => identifier(`${name} as read`);
const targetOf = ({ type, scale, digits }: TypedAs): Sql =>
  checkedText([columnType(type, scale, digits)], []);
const isText = ({ type }: TypedAs): boolean => type === 'text' || type === 'nested';

/**
 * Text columns read as types, each under its own name. Empty text is blank; a text that cannot be read is, unless it is to
 * be blank, an error that names the field and the text. What is written the way DuckDB itself writes it, which is nearly
 * everything, goes without a pattern.
 */
export function typedSql(fields: readonly TypedAs[], from: Sql): Sql {
  const columns = fields.map((field) => sql`${typed(field)} AS ${identifier(field.name)}`);
  const attempts = fields
    .filter((field) => !isText(field) && !field.isRead)
    .map((field) => sql`TRY_CAST(${identifier(field.name)} AS ${targetOf(field)}) AS ${attempt(field.name)}`);
  return sql`SELECT ${join(columns, comma)} FROM (SELECT ${join([sql`*`, ...attempts], comma)} FROM ${from})`;
}

function typed(field: TypedAs): Sql {
  const { name, type, scale = 0, strictly = false, misfit = 'error' } = field;
  const column = identifier(name);
  if (field.isRead) return sql`CAST(${column} AS ${targetOf(field)})`;
  if (type === 'text') return sql`nullif(${column}, '')`;
  if (type === 'nested') return sql`nullif(${checkedText([exactJson(textOf(column))], [])}, '')`;
  const read = attempt(name);
  const target = targetOf(field);
  const trimmed = sql`trim(${column})`;
  const wrong =
    misfit === 'blank' ? sql`NULL` : sql`error(${literal(`“${name}” as ${type}: `)} || ${trimmed})`;
  const like = (pattern: Sql): Sql => sql`regexp_full_match(${trimmed}, ${pattern})`;
  const notPadded = strictly ? sql` AND NOT ${like(paddedPattern)}` : sql``;
  const fits = strictly
    ? sql` AND length(rtrim(regexp_extract(${trimmed}, '[.]([0-9]*)$', 1), '0')) <= ${checkedText([String(scale)], [])}`
    : sql``;
  const asWritten = sql`CAST(${read} AS VARCHAR) = ${column}`;
  // Branches are tried in order, and what one has taken the next does not see.
  const branches = (usual: Sql, more: readonly [Sql, Sql][]): Sql =>
    sql`CASE WHEN ${column} IS NULL THEN NULL WHEN ${usual} THEN ${read} WHEN ${trimmed} = '' THEN NULL ${join(
      more.map(([condition, value]) => sql`WHEN ${condition} THEN ${value}`),
      sql` `,
    )} ELSE ${wrong} END`;
  const cast = sql`CAST(${trimmed} AS ${target})`;
  const castable = sql` AND TRY_CAST(${trimmed} AS ${target}) IS NOT NULL`;
  switch (type) {
    case 'integer':
      return branches(asWritten, [[sql`${like(integerPattern)}${notPadded}${castable}`, cast]]);
    case 'decimal':
      // Nothing is added but the zeros that the scale gives it.
      return branches(sql`starts_with(CAST(${read} AS VARCHAR), ${column})`, [
        [sql`${like(decimalPattern)}${notPadded}${fits}${castable}`, cast],
      ]);
    case 'float':
      return branches(asWritten, [[sql`${like(floatPattern)} ${castable}${notPadded}`, cast]]);
    case 'boolean':
      return branches(
        strictly ? sql`${column} IN ('true', 'false')` : sql`${column} IN ('true', 'false', 't', 'f')`,
        [
          [sql`lower(${trimmed}) IN ('yes', 'true')`, sql`TRUE`],
          [sql`lower(${trimmed}) IN ('no', 'false')`, sql`FALSE`],
          ...(strictly ? [] : [[sql`${trimmed} IN ('1', '0', 't', 'f')`, cast] as [Sql, Sql]]),
        ],
      );
    case 'date':
      return branches(asWritten, [[sql`${like(datePattern)}${castable}`, cast]]);
    case 'instant':
      // As ISO 8601 has it, or as PostgreSQL writes it out in a session in UTC.
      return branches(
        sql`(length(${column}) = 20 AND ends_with(${column}, 'Z') AND ${read} IS NOT NULL) OR (substr(${column}, 5, 1) = '-' AND CAST(${read} AS VARCHAR) || '+00' = ${column})`,
        [
          [
            sql`${like(instantPattern)} AND TRY_CAST(${trimmed} AS TIMESTAMPTZ) IS NOT NULL`,
            sql`CAST(CAST(${trimmed} AS TIMESTAMPTZ) AS TIMESTAMP)`,
          ],
        ],
      );
  }
}
