import { parse } from 'csv-parse/sync';
import { fileHead } from './file-head.ts';

/* Titles above the table in a delimited file: "Quarterly report" on a line of its own, a blank line, and then the header. */

const headBytes = 65_536;
const mostTitles = 20;
/** This many lines say how a table is laid out. */
const headLines = 200;
const leastBelow = 2;
const delimiters = [',', ';', '\t', '|'];

/** How many lines stand above the header, where that is plain; else 0. */
export async function titleLines(file: string, encoding: 'utf-8' | 'utf-16' | 'latin-1'): Promise<number> {
  const head = await fileHead(file, headBytes);
  const text = new TextDecoder(
    encoding === 'utf-16' ? 'utf-16le' : encoding === 'latin-1' ? 'latin1' : encoding,
  ).decode(head);
  const lines = text.split(/\r\n|\n|\r/);
  if (head.length === headBytes) lines.pop();
  return titlesIn(lines.slice(0, headLines));
}

/** The same of the first lines of a file. */
export function titlesIn(lines: readonly string[]): number {
  const found = delimiters.map((delimiter) => titlesWith(lines, delimiter));
  // The delimiter of the table is the one that most of its lines have; a title may hold another.
  return found.sort((a, b) => b.agreeing - a.agreeing)[0]?.titles ?? 0;
}

function titlesWith(lines: readonly string[], delimiter: string): { titles: number; agreeing: number } {
  const rows = lines.map((line) => fieldsOf(line, delimiter));
  const widths = new Map<number, number>();
  for (const { length } of rows) if (length > 1) widths.set(length, (widths.get(length) ?? 0) + 1);
  const [width = 0, agreeing = 0] = [...widths].sort(([, a], [, b]) => b - a)[0] ?? [];
  const first = rows.findIndex((row) => row.length === width && !isTitle(row, width));
  const isPlain =
    width > 1 && first > 0 && first <= mostTitles && rows.slice(0, first).every((row) => isTitle(row, width));
  const below = rows.slice(first + 1).filter(({ length }) => length === width).length;
  return { titles: isPlain && below >= leastBelow ? first : 0, agreeing };
}

/** A line without a delimiter, or of a wide table with one filled cell at most. */
const isTitle = (row: readonly string[], width: number): boolean =>
  row.length <= 1 ||
  (width > 2 && row.length === width && row.filter((cell) => cell.trim() !== '').length <= 1);

function fieldsOf(line: string, delimiter: string): string[] {
  if (line.trim() === '') return [];
  const [fields] = parse(line, { delimiter, relax_quotes: true, relax_column_count: true }) as string[][];
  return fields ?? [];
}
