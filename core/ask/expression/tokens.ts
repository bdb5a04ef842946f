/* The words, names, texts, numbers and signs that an expression is written in. */

/** Offsets in the text, for marking what is wrong. */
export interface At {
  readonly from: number;
  readonly to: number;
}

/** What is wrong with an expression, and where. */
export class ExpressionError extends Error {
  constructor(
    readonly why: string,
    readonly at: At,
  ) {
    super(why);
    this.name = 'ExpressionError';
  }
}

export const longestExpression = 4000;
export interface Token {
  readonly kind: 'word' | 'quoted' | 'text' | 'number' | 'sign' | 'end';
  /** Words as written; quoted names and texts without their quotes. */
  readonly text: string;
  readonly at: At;
}

const tokens =
  /\s+|--[^\n]*|([\p{L}_][\p{L}\p{N}_]*)|"((?:[^"]|"")+)"|'((?:[^']|'')*)'|(\d+(?:\.\d*)?|\.\d+)|(\|\||<>|!=|<=|>=|[-+*/%=<>(),])/uy;

/** Takes text apart. Throws an {@link ExpressionError} where something in it has no meaning. */
export function tokenise(text: string): Token[] {
  if (text.length > longestExpression)
    throw new ExpressionError(`it is longer than ${longestExpression} characters`, {
      from: longestExpression,
      to: text.length,
    });
  const found: Token[] = [];
  let from = 0;
  while (from < text.length) {
    tokens.lastIndex = from;
    const match = tokens.exec(text);
    const here = { from, to: from + 1 };
    if (!match || match[0] === '') {
      const sign = String.fromCodePoint(text.codePointAt(from) ?? 32);
      if (sign === "'") throw new ExpressionError('a text begins here and does not end', here);
      if (sign === '"') throw new ExpressionError('a name begins here and does not end', here);
      throw new ExpressionError(`“${sign}” has no meaning here`, here);
    }
    const at = { from, to: from + match[0].length };
    const [, word, quoted, string, number, sign] = match;
    if (word !== undefined) found.push({ kind: 'word', text: word, at });
    else if (quoted !== undefined) found.push({ kind: 'quoted', text: quoted.replaceAll('""', '"'), at });
    else if (string !== undefined) found.push({ kind: 'text', text: string.replaceAll("''", "'"), at });
    else if (number !== undefined) found.push({ kind: 'number', text: number, at });
    else if (sign !== undefined) found.push({ kind: 'sign', text: sign === '!=' ? '<>' : sign, at });
    from = at.to;
  }
  found.push({ kind: 'end', text: '', at: { from: text.length, to: text.length } });
  return found;
}
