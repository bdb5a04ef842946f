import type { Looks } from '#core/dataset/kept/guess.ts';
import { comma, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { datePattern, decimalPattern, instantPattern, integerPattern, paddedPattern } from './typed.ts';

const kinds = [
  'filled',
  'integers',
  'decimals',
  'floats',
  'booleans',
  'dates',
  'instants',
  'nested',
  'padded',
  'wholeDigits',
  'decimalDigits',
] as const satisfies readonly (keyof Looks)[];

/** The counts of what a column of texts looks like, in the order of the kinds. */
function counts(column: Sql): Sql[] {
  const v = sql`nullif(trim(${column}), '')`;
  const like = (pattern: Sql): Sql => sql`regexp_full_match(${v}, ${pattern})`;
  const counted = (condition: Sql): Sql => sql`count(*) FILTER (WHERE ${condition})`;
  const isDecimal = like(decimalPattern);
  return [
    sql`count(${v})`,
    counted(sql`${like(integerPattern)} AND TRY_CAST(${v} AS BIGINT) IS NOT NULL`),
    counted(isDecimal),
    counted(sql`TRY_CAST(${v} AS DOUBLE) IS NOT NULL AND ${like(sql`'[-+0-9.eE]+'`)}`),
    counted(sql`lower(${v}) IN ('true', 'false', 'yes', 'no')`),
    counted(sql`${like(datePattern)} AND TRY_CAST(${v} AS DATE) IS NOT NULL`),
    counted(sql`${like(instantPattern)} AND TRY_CAST(${v} AS TIMESTAMPTZ) IS NOT NULL`),
    counted(sql`(starts_with(${v}, '{') OR starts_with(${v}, '[')) AND json_valid(${v})`),
    counted(like(paddedPattern)),
    sql`coalesce(max(length(regexp_extract(${v}, '^[+-]?([0-9]*)', 1))) FILTER (WHERE ${isDecimal}), 0)`,
    sql`coalesce(max(length(rtrim(regexp_extract(${v}, '[.]([0-9]*)$', 1), '0'))) FILTER (WHERE ${isDecimal}), 0)`,
  ];
}

/** One record that says what the texts of every column look like, {@link looksOf} reads it: one pass over the records. */
export function looksSql(columns: readonly string[], from: Sql): Sql {
  const each = columns.flatMap((name) => counts(identifier(name)));
  return sql`SELECT count(*), ${join(each, comma)} FROM ${from}`;
}

/**
 * The same for many columns: a record for each that holds anything, its name first. The values stand under each other, so that
 * the question does not grow with the columns, which takes DuckDB minutes to plan.
 */
export function wideLooksSql(columns: readonly string[], from: Sql): Sql {
  const values = columns.map((name, at) => sql`{'place': ${ordinal(at)}, 'text': ${identifier(name)}}`);
  return sql`SELECT c.place, ${join(counts(sql`c.text`), comma)} FROM (SELECT unnest([${join(values, comma)}], recursive := true) FROM ${from}) AS c GROUP BY c.place`;
}

/** What {@link wideLooksSql} found; a column that it says nothing of holds nothing. */
export function wideLooksOf(
  columns: readonly string[],
  rows: readonly (readonly unknown[])[],
): Map<string, Looks> {
  const found = new Map(rows.map(([place, ...row]) => [Number(place), row]));
  return new Map(columns.map((name, at) => [name, looksIn(found.get(at) ?? [])]));
}

const looksIn = (row: readonly unknown[]): Looks =>
  Object.fromEntries(kinds.map((kind, index) => [kind, Number(row[index] ?? 0)])) as unknown as Looks;

/** What {@link looksSql} found: how many records, and the looks of each column. */
export function looksOf(
  columns: readonly string[],
  [total, ...row]: readonly unknown[],
): { total: number; looks: Map<string, Looks> } {
  return {
    total: Number(total ?? 0),
    looks: new Map(
      columns.map((name, at) => [name, looksIn(row.slice(at * kinds.length, (at + 1) * kinds.length))]),
    ),
  };
}
