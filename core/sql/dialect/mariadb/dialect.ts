import { type Sql, toQuery } from '#core/sql/fragment.ts';
import type { FieldType } from '#core/value/field/types.ts';

/*
 * MariaDB as what a request is asked with. No plan runs there: its records are fetched, so that it needs no more of a dialect
 * than values and names.
 */

/** What a bound value is cast to, so that no number is compared as a float. */
export const casts: Record<FieldType, string> = {
  text: 'CHAR',
  nested: 'CHAR',
  integer: 'SIGNED',
  decimal: 'DECIMAL(65, 20)',
  float: 'DOUBLE',
  boolean: 'SIGNED',
  date: 'DATE',
  instant: 'DATETIME(6)',
};

/** Columns are read as they are, whatever the type of a field. */
export const asItIs = { read: (column: Sql): Sql => column };

/** A statement with `?` for each value. */
export interface MariaQuery {
  readonly text: string;
  readonly values: readonly (string | null)[];
}

export function mariaQuery(query: Sql): MariaQuery {
  const { text, values } = toQuery(query, (_, { type }) => `CAST(? AS ${casts[type]})`);
  return {
    text,
    values: values.map((value) => (value === null ? null : valueText(String(value)))),
  };
}

/** ISO 8601 in UTC as MariaDB takes it, in a session whose zone is UTC; other texts stay. */
export const valueText = (text: string): string => {
  const [, day, time] = /^(\d{4}-\d{2}-\d{2})T([\d:.]+)Z$/.exec(text) ?? [];
  if (day && time) return `${day} ${time}`;
  return text === 'true' ? '1' : text === 'false' ? '0' : text;
};
