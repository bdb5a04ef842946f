/** An input's place in SQL text; `from` is the colon's offset, `to` the one after the name. */
export interface FoundInput {
  readonly name: string;
  readonly from: number;
  readonly to: number;
}

/**
 * What to pass over so that a colon inside is not taken for an input: string constants (with and without backslash
 * escapes), quoted identifiers, dollar-quoted strings, comments, casts (`::`), and slices such as `a[1:2]`.
 * PostgreSQL 15, chapter 4.1.
 */
const token =
  /\b[eE]'(?:[^'\\]|\\[\s\S]|'')*'|'(?:[^']|'')*'|"(?:[^"]|"")*"|\$([A-Za-z_]\w*)?\$[\s\S]*?\$\1\$|--[^\n]*|\/\*|::|:=|:([A-Za-z_][A-Za-z0-9_]*)/g;

/** Finds every `:name` in SQL text, in order, each time it stands there. */
export function findInputs(text: string): FoundInput[] {
  const found: FoundInput[] = [];
  token.lastIndex = 0;
  for (let match = token.exec(text); match; match = token.exec(text)) {
    if (match[0] === '/*') token.lastIndex = endOfComment(text, match.index);
    else if (match[2] && !/[\w\]]/.test(text.charAt(match.index - 1)))
      found.push({ name: match[2], from: match.index, to: match.index + match[0].length });
  }
  return found;
}

/** Block comments nest in SQL. */
function endOfComment(text: string, start: number): number {
  let depth = 0;
  const edge = /\/\*|\*\//g;
  edge.lastIndex = start;
  for (let match = edge.exec(text); match; match = edge.exec(text)) {
    depth += match[0] === '/*' ? 1 : -1;
    if (depth === 0) return edge.lastIndex;
  }
  return text.length;
}

/** The names of the inputs in SQL text, each once, in order of first use. */
export const inputNames = (text: string): string[] => [...new Set(findInputs(text).map(({ name }) => name))];
