import type { FieldType } from '#core/field/types.ts';

/**
 * A piece of SQL in which values are kept apart from text. `text` has one piece more than `values`. The only ways to
 * make one are the functions of this file, so that no value can reach the text.
 */
export interface Sql {
  readonly text: readonly string[];
  readonly values: readonly BoundValue[];
}

export interface BoundValue {
  readonly type: FieldType;
  readonly value: string | null | readonly string[];
}

/** Only what was made here has the private mark, so nothing else can pass for SQL. */
class Piece implements Sql {
  readonly #made = true;

  constructor(
    readonly text: readonly string[],
    readonly values: readonly BoundValue[],
  ) {}

  static is(part: Sql): boolean {
    return #made in part && part.#made;
  }
}

const make = (text: readonly string[], values: readonly BoundValue[]): Sql => new Piece(text, values);

/** SQL text with other SQL between. Interpolating anything that this file did not make is a programmer's error. */
export function sql(strings: TemplateStringsArray, ...parts: readonly Sql[]): Sql {
  const text: string[] = [strings[0] ?? ''];
  const values: BoundValue[] = [];
  parts.forEach((part, index) => {
    append(part, text, values);
    text[text.length - 1] += strings[index + 1] ?? '';
  });
  return make(text, values);
}

function append(part: Sql, text: string[], values: BoundValue[]): void {
  if (!Piece.is(part)) throw new TypeError('SQL can only be put together from SQL');
  text[text.length - 1] += part.text[0] ?? '';
  for (let at = 1; at < part.text.length; at += 1) text.push(part.text[at] ?? '');
  for (const value of part.values) values.push(value);
}

/** A value, bound to a placeholder. */
export const bind = (type: FieldType, value: string | null | readonly string[]): Sql =>
  make(['', ''], [{ type, value }]);

/** An identifier, quoted as ISO/IEC 9075 does. The only place where a name becomes SQL text. */
export function identifier(name: string): Sql {
  if (name.includes('\0')) throw new TypeError('an identifier cannot hold a NUL character');
  return make([`"${name.replaceAll('"', '""')}"`], []);
}

/** A whole number that the compiler itself computed, such as a column's ordinal. */
export function ordinal(value: number): Sql {
  if (!Number.isSafeInteger(value)) throw new TypeError('an ordinal is a whole number');
  return make([String(value)], []);
}

/** SQL text that an analyst wrote and the parser has accepted, with its inputs bound between. */
export function checkedText(text: readonly string[], values: readonly BoundValue[]): Sql {
  if (text.length !== values.length + 1) throw new TypeError('one piece of text more than values');
  return make(text, values);
}

export function join(parts: readonly Sql[], between: Sql): Sql {
  const text = [''];
  const values: BoundValue[] = [];
  parts.forEach((part, index) => {
    if (index > 0) append(between, text, values);
    append(part, text, values);
  });
  return make(text, values);
}

export const comma = sql`, `;
export const and = sql` AND `;
export const or = sql` OR `;

/** The text and values of a query, with a dialect's placeholders. */
export function toQuery(
  query: Sql,
  placeholder: (index: number, value: BoundValue) => string,
): { text: string; values: (string | null | readonly string[])[] } {
  let text = query.text[0] ?? '';
  query.values.forEach((value, index) => {
    text += placeholder(index + 1, value) + (query.text[index + 1] ?? '');
  });
  return { text, values: query.values.map(({ value }) => value) };
}

/** Groups by the first so many columns; none is one group. */
export const groupedBy = (columns: number): Sql =>
  columns === 0
    ? sql``
    : sql` GROUP BY ${join(
        Array.from({ length: columns }, (_, at) => ordinal(at + 1)),
        comma,
      )}`;

/** The columns of a SELECT; one that is asked for none yields its records all the same. */
export const listed = (columns: readonly Sql[]): Sql =>
  columns.length === 0 ? sql`1 AS one` : join(columns, comma);
