import type { LineFormat } from './schema.ts';

/* The formats that logs are written in, as patterns with named groups (RE2). */

const common = String.raw`^(?P<host>\S+) (?P<ident>\S+) (?P<user>\S+) \[(?P<time>[^\]]+)\] "(?P<method>[A-Z]+) (?P<path>\S+)(?: (?P<protocol>[^" ]+))?" (?P<status>\d{3}) (?P<bytes>\d+|-)`;

/** RFC 5424, section 6: version 1, with its structured data as one text. */
const syslog = String.raw`^<(?P<priority>\d{1,3})>1 (?P<time>\S+) (?P<host>\S+) (?P<app>\S+) (?P<process>\S+) (?P<message_id>\S+) (?P<data>-|(?:\[(?:[^\]\\"]|\\.|"(?:[^"\\]|\\.)*")*\])+)(?: (?:\x{FEFF})?(?P<message>(?s:.*)))?$`;

/** The pattern of a format that is one; null for those that are read in another way. */
export function patternOf(format: LineFormat): string | null {
  switch (format.kind) {
    case 'common':
      return `${common}$`;
    case 'combined':
      return String.raw`${common} "(?P<referrer>(?:[^"\\]|\\.)*)" "(?P<agent>(?:[^"\\]|\\.)*)"$`;
    case 'syslog':
      return syslog;
    case 'pattern':
      return format.pattern;
    case 'json':
    case 'pairs':
    case 'delimited':
      return null;
  }
}

/** The names of a pattern's groups, in order; `(?<name>` and `(?P<name>` both count. */
export const groupNames = (pattern: string): string[] =>
  [...pattern.matchAll(/\(\?P?<([A-Za-z_][A-Za-z0-9_]*)>/g)].map(([, name = '']) => name);

/** A pattern as RE2 of every age reads it: named groups with a P. */
export const re2Pattern = (pattern: string): string => pattern.replace(/\(\?<(?![=!])/g, '(?P<');

/** Why a pattern of a person's cannot be used, or null. What RE2 itself says comes when it is tried. */
export function patternProblem(pattern: string): string | null {
  if (groupNames(pattern).length === 0)
    return 'it names no field: write a group as (?<name>…) around what is to become one';
  const names = groupNames(pattern);
  const twice = names.find((name, at) => names.indexOf(name) !== at);
  return twice === undefined ? null : `two groups are called “${twice}”`;
}

const looksLike: readonly [LineFormat, RegExp][] = [
  [{ kind: 'json' }, /^\s*\{.*\}\s*$/],
  [{ kind: 'combined' }, /^\S+ \S+ \S+ \[[^\]]+\] "[A-Z]+ \S+[^"]*" \d{3} (\d+|-) "[^"]*" "[^"]*"$/],
  [{ kind: 'common' }, /^\S+ \S+ \S+ \[[^\]]+\] "[A-Z]+ \S+[^"]*" \d{3} (\d+|-)$/],
  [{ kind: 'syslog' }, /^<\d{1,3}>1 \S+ \S+ \S+ \S+ \S+ (-|\[)/],
  [{ kind: 'pairs' }, /^(?=.*=)(?:[\w.\-/]+=(?:"(?:[^"\\]|\\.)*"|\S*)(?:\s+|$)){2,}$/],
];

/** Records that go on over a line end leave lines with fewer values; at least this share of the lines is whole. */
const delimitedShare = 0.85;

/** The number that comes most often, and how often. */
function mostOften(numbers: readonly number[]): [number, number] | [] {
  const times = new Map<number, number>();
  for (const each of numbers) times.set(each, (times.get(each) ?? 0) + 1);
  return [...times].sort(([, a], [, b]) => b - a)[0] ?? [];
}

/** The format that most of some lines seem to be in; a pattern that takes each line whole where none fits. */
export function guessFormat(lines: readonly string[]): LineFormat {
  const [best] = looksLike
    .map(([format, shape]) => ({ format, count: lines.filter((line) => shape.test(line)).length }))
    .sort((a, b) => b.count - a.count);
  if (best && best.count * 2 > lines.length) return best.format;
  for (const delimiter of ['\t', '|', ';', ',']) {
    // What stands in quotes is one value, whatever is in it.
    const counts = lines.map((line) => line.replace(/"(?:[^"]|"")*"/g, '').split(delimiter).length);
    const [values = 0, agreeing = 0] = mostOften(counts);
    if (values > 2 && agreeing >= lines.length * delimitedShare)
      return {
        kind: 'delimited',
        delimiter,
        names: Array.from({ length: values }, (_, at) => `field_${at + 1}`),
      };
  }
  return { kind: 'pattern', pattern: '^(?<line>.*)$' };
}

/** A stretch of a line that became a field. Offsets in UTF-16 units; `to` is after the last. */
export interface Mark {
  readonly field: string;
  readonly from: number;
  readonly to: number;
}

/** Where in a line the texts of its fields stand: each is looked for after the one before it. */
export function marksOf(line: string, fields: readonly { name: string; text: string | null }[]): Mark[] {
  const marks: Mark[] = [];
  let at = 0;
  for (const { name, text } of fields) {
    if (!text) continue;
    const from = line.indexOf(text, at);
    if (from < 0) continue;
    marks.push({ field: name, from, to: from + text.length });
    at = from + text.length;
  }
  return marks;
}
