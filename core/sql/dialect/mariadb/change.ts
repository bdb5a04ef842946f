import type { Column } from '#core/dataset/schema.ts';
import { bind, comma, identifier, join, type Sql, sql, toQuery } from '#core/sql/fragment.ts';
import { columnSql } from '#core/sql/relation.ts';
import { asItIs, type MariaQuery, valueText } from './dialect.ts';

/*
 * Changes of records as MariaDB and MySQL take them. A value is bound as it is written for its column, so that the server reads it as it
 * does any other and refuses what does not fit. Neither gives back what it has changed, so that is asked for afterwards.
 */

/** Where the records are that are changed. */
interface ChangedTable {
  readonly schema: string;
  readonly table: string;
  readonly key: Column;
}

type Set = ReadonlyMap<Column, string | null>;

function written(query: Sql): MariaQuery {
  const types: string[] = [];
  const { text, values } = toQuery(query, (_, { type }) => {
    types.push(type);
    return '?';
  });
  return {
    text,
    values: values.map((value, at) => {
      if (value === null) return null;
      return types[at] === 'boolean' || types[at] === 'instant' ? valueText(String(value)) : String(value);
    }),
  };
}

const tableSql = ({ schema, table }: ChangedTable): Sql => sql`${identifier(schema)}.${identifier(table)}`;

const isOneOf = ({ key: { column, type } }: ChangedTable, keys: readonly string[]): Sql =>
  sql`${identifier(column)} IN (${join(
    keys.map((key) => bind(type, key)),
    comma,
  )})`;

/** Records as they are now, the key first, held until the end of the transaction. */
export const heldRecords = (
  table: ChangedTable,
  keys: readonly string[],
  columns: readonly Column[],
): MariaQuery => {
  const read = [table.key, ...columns].map((column, at) =>
    columnSql(sql`t`, { ...column, name: `${at}` }, asItIs),
  );
  return written(
    sql`SELECT ${join(read, comma)} FROM ${tableSql(table)} AS t WHERE t.${isOneOf(table, keys)} FOR UPDATE`,
  );
};

export const updateRecords = (table: ChangedTable, keys: readonly string[], set: Set): MariaQuery => {
  const sets = [...set].map(([{ column, type }, value]) => sql`${identifier(column)} = ${bind(type, value)}`);
  return written(sql`UPDATE ${tableSql(table)} SET ${join(sets, comma)} WHERE ${isOneOf(table, keys)}`);
};

export const insertRecord = (table: ChangedTable, set: Set): MariaQuery => {
  const names = [...set.keys()].map(({ column }) => identifier(column));
  const values = [...set].map(([{ type }, value]) => bind(type, value));
  return written(sql`INSERT INTO ${tableSql(table)} (${join(names, comma)}) VALUES (${join(values, comma)})`);
};

export const removeRecords = (table: ChangedTable, keys: readonly string[]): MariaQuery =>
  written(sql`DELETE FROM ${tableSql(table)} WHERE ${isOneOf(table, keys)}`);
