import type { FieldType } from '#core/value/field/types.ts';

/** A piece of SQL in which values are kept apart from text. The only ways to make one are the functions of this file, so that no value can reach the text. */
export type Sql = Piece;

export interface BoundValue {
  readonly type: FieldType;
  readonly value: string | null | readonly string[];
}

/**
 * Only what was made here has the private mark, so nothing else can pass for SQL. Pieces hold one another rather than copies, so
 * that what is put together often is written out once.
 */
class Piece {
  readonly #parts: readonly (string | BoundValue | Piece)[];

  constructor(parts: readonly (string | BoundValue | Piece)[]) {
    this.#parts = parts;
  }

  static is(part: unknown): part is Piece {
    return typeof part === 'object' && part !== null && #parts in part;
  }

  /** Hands over the text and the values between it, in order. */
  write(text: (part: string) => void, value: (part: BoundValue) => void): void {
    for (const part of this.#parts)
      if (typeof part === 'string') text(part);
      else if (Piece.is(part)) part.write(text, value);
      else value(part);
  }
}

/** SQL text with other SQL between. Interpolating anything that this file did not make is a programmer's error. */
export function sql(strings: TemplateStringsArray, ...parts: readonly Sql[]): Sql {
  return new Piece(strings.flatMap((text, index) => (index === 0 ? [text] : [own(parts[index - 1]), text])));
}

function own(part: unknown): Piece {
  if (!Piece.is(part)) throw new TypeError('SQL can only be put together from SQL');
  return part;
}

/** A value, bound to a placeholder. */
export const bind = (type: FieldType, value: string | null | readonly string[]): Sql =>
  new Piece([{ type, value }]);

/** An identifier, quoted as ISO/IEC 9075 does. The only place where a name becomes SQL text. */
export function identifier(name: string): Sql {
  if (name.includes('\0')) throw new TypeError('an identifier cannot hold a NUL character');
  return new Piece([`"${name.replaceAll('"', '""')}"`]);
}

/** A whole number that the compiler itself computed, such as a column's ordinal. */
export function ordinal(value: number): Sql {
  if (!Number.isSafeInteger(value)) throw new TypeError('an ordinal is a whole number');
  return new Piece([String(value)]);
}

/** SQL text that an analyst wrote and the parser has accepted, with its inputs bound between. */
export function checkedText(text: readonly string[], values: readonly BoundValue[]): Sql {
  if (text.length !== values.length + 1) throw new TypeError('one piece of text more than values');
  return new Piece(text.flatMap((part, at) => [part, ...values.slice(at, at + 1)]));
}

export const join = (parts: readonly Sql[], between: Sql): Sql =>
  new Piece(parts.flatMap((part, index) => (index === 0 ? [own(part)] : [own(between), own(part)])));

export const comma = sql`, `;
export const and = sql` AND `;
export const or = sql` OR `;

/** The text and values of a query, with a dialect's placeholders. */
export function toQuery(
  query: Sql,
  placeholder: (index: number, value: BoundValue) => string,
): { text: string; values: (string | null | readonly string[])[] } {
  let text = '';
  const values: BoundValue['value'][] = [];
  query.write(
    (part) => {
      text += part;
    },
    (value) => {
      text += placeholder(values.push(value.value), value);
    },
  );
  return { text, values };
}

/** Groups by the first columns; none of them is one group. */
export const groupedBy = (columns: number): Sql =>
  columns === 0
    ? sql``
    : sql` GROUP BY ${join(
        Array.from({ length: columns }, (_, at) => ordinal(at + 1)),
        comma,
      )}`;

/** Values as columns of a letter and their places. */
export const named = (letter: string, values: readonly Sql[], from = 0): Sql[] =>
  values.map((value, index) => sql`${value} AS ${identifier(`${letter}${index + from}`)}`);

/** The columns of a SELECT; one that is asked for none yields its records all the same. */
export const columnList = (columns: readonly Sql[]): Sql =>
  columns.length === 0 ? sql`1 AS one` : join(columns, comma);
