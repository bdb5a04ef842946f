import { identifier } from '#core/sql/fragment.ts';
import { literalText, textOf } from './quote.ts';

/** Bytes of a line that DuckDB reads without being told. */
const usualLine = 2_000_000;

/** A text as it was before it was copied out: a pair of backslashes is one, and each other one begins a control character. */
function copiedText(column: string): string {
  const controls = { b: 8, t: 9, n: 10, v: 11, f: 12, r: 13 };
  const plain = Object.entries(controls).reduce(
    (part, [letter, code]) => `replace(${part}, '\\${letter}', chr(${code}))`,
    'part',
  );
  return `CASE WHEN contains(${column}, '\\') THEN array_to_string(list_transform(string_split(${column}, '\\\\'), lambda part: ${plain}), '\\') ELSE ${column} END`;
}

/**
 * A query for the records of a file as PostgreSQL copies them out (COPY, format text): a line each, the columns between tabs, `\N`
 * for blanks. No line is longer than this many bytes.
 */
export function copiedQuery(file: string, names: readonly string[], longest: number): string {
  const types = names.map((name) => `${literalText(name)}: 'VARCHAR'`).join(', ');
  const columns = names.map(
    (name) => `${copiedText(textOf(identifier(name)))} AS ${textOf(identifier(name))}`,
  );
  const size =
    longest < usualLine ? '' : `, max_line_size = ${longest + 1}, buffer_size = ${2 * (longest + 1)}`;
  return `SELECT ${columns.join(', ')} FROM read_csv(${literalText(file)}, auto_detect = false, header = false, columns = {${types}}, delim = '\\t', quote = '',
    escape = '', new_line = '\\n', nullstr = '\\N'${size})`;
}
