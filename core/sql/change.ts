import type { Column } from '#core/dataset/schema.ts';
import type { Dialect } from '#core/sql/dialect/dialect.ts';
import { bind, comma, identifier, join, type Sql, sql, toQuery } from './fragment.ts';
import { columnSql } from './relation.ts';

/*
 * Changes of records as SQL. A value is bound without a type, so that the database reads it as its column does: that way it takes what the
 * column takes, whatever its type is called, and refuses the rest in its own words.
 */

/** Where the records are that are changed. */
export interface ChangedTable {
  readonly schema: string;
  readonly table: string;
  /** What identifies a record. */
  readonly key: Column;
}

export interface ChangeQuery {
  readonly text: string;
  readonly values: readonly (string | null | readonly string[])[];
}

const written = (query: Sql): ChangeQuery => toQuery(query, (index) => `$${index}`);

const value = (text: string | null): Sql => bind('text', text);

const tableSql = ({ schema, table }: ChangedTable): Sql => sql`${identifier(schema)}.${identifier(table)}`;

/** The key first, then some columns, each as its field reads it. */
const readSql = ({ key }: ChangedTable, columns: readonly Column[], dialect: Pick<Dialect, 'read'>): Sql =>
  join(
    [key, ...columns].map((column, at) => columnSql(sql`t`, { ...column, name: `${at}` }, dialect)),
    comma,
  );

const isOneOf = ({ key }: ChangedTable, keys: readonly string[]): Sql =>
  sql`t.${identifier(key.column)} = ANY(${bind('text', keys)})`;

/** Records as they are now, held until the end of the transaction, so that nobody changes them in between. */
export const heldRecords = (
  table: ChangedTable,
  keys: readonly string[],
  columns: readonly Column[],
  dialect: Pick<Dialect, 'read'>,
): ChangeQuery =>
  written(
    sql`SELECT ${readSql(table, columns, dialect)} FROM ${tableSql(table)} AS t WHERE ${isOneOf(table, keys)} FOR UPDATE`,
  );

/** Sets columns of records to the same values, and gives the records as they are then. */
export const updateRecords = (
  table: ChangedTable,
  keys: readonly string[],
  set: ReadonlyMap<Column, string | null>,
  dialect: Pick<Dialect, 'read'>,
): ChangeQuery => {
  const columns = [...set.keys()];
  const sets = [...set].map(([{ column }, text]) => sql`${identifier(column)} = ${value(text)}`);
  return written(
    sql`UPDATE ${tableSql(table)} AS t SET ${join(sets, comma)} WHERE ${isOneOf(table, keys)} RETURNING ${readSql(table, columns, dialect)}`,
  );
};

/** Adds a record, and gives it as it is then, with what the source made of it. */
export const insertRecord = (
  table: ChangedTable,
  set: ReadonlyMap<Column, string | null>,
  dialect: Pick<Dialect, 'read'>,
): ChangeQuery => {
  const columns = [...set.keys()];
  const names = columns.map(({ column }) => identifier(column));
  const values =
    columns.length === 0
      ? sql`DEFAULT VALUES`
      : sql`(${join(names, comma)}) VALUES (${join([...set.values()].map(value), comma)})`;
  return written(
    sql`INSERT INTO ${tableSql(table)} AS t ${values} RETURNING ${readSql(table, columns, dialect)}`,
  );
};

/** Removes records, and gives the keys of those that it removed. */
export const removeRecords = (
  table: ChangedTable,
  keys: readonly string[],
  dialect: Pick<Dialect, 'read'>,
): ChangeQuery =>
  written(
    sql`DELETE FROM ${tableSql(table)} AS t WHERE ${isOneOf(table, keys)} RETURNING ${readSql(table, [], dialect)}`,
  );
