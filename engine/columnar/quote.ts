import { checkedText, identifier, type Sql, toQuery } from '#core/sql/fragment.ts';

/** The text of SQL that holds no values, for statements that take none (COPY, CREATE VIEW, DESCRIBE). */
export function textOf(query: Sql): string {
  const { text, values } = toQuery(query, () => '');
  if (values.length > 0) throw new TypeError('a statement of this kind holds no values');
  return text;
}

/** A name as SQL text. */
export const nameText = (name: string): string => textOf(identifier(name));

/** A text of ours as a literal, such as the path of a file, where a statement takes no value. */
export const literalText = (text: string): string => `'${text.replaceAll("'", "''")}'`;

/** {@link literalText} as a piece of SQL. */
export const literal = (text: string): Sql => checkedText([literalText(text)], []);

/** Files to be read as one table. */
export const filesText = (files: readonly string[]): string =>
  `read_parquet([${files.map(literalText).join(', ')}])`;
