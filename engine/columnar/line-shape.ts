import { open } from 'node:fs/promises';
import { safeDigits, tinyBeginning } from './exact-json.ts';
import { fileHead } from './file-head.ts';
import { longestRecord } from './staged.ts';

/*
 * Most programs write every record on a line of its own with the same members in the same order. Whether a file is such a one
 * is seen by one pattern over its bytes, sooner than by reading its records; and what is seen to be a number everywhere need
 * not be read as a text first.
 */

/** What a member is in every line: a number without a point, one with at most `scale` digits after it, or yes or no. */
export type OwnType =
  | { readonly type: 'integer' }
  | { readonly type: 'decimal'; readonly scale: number }
  | { readonly type: 'boolean' };

/** How every line of a file is written. */
export interface LineShape {
  /** In their order. */
  readonly keys: readonly string[];
  /** Of the members that are never anything else but blank. */
  readonly types: ReadonlyMap<string, OwnType>;
  /** The members that are texts somewhere. */
  readonly texts: ReadonlySet<string>;
  /** Some lines and their ends, where the last match ended; of bytes as Latin-1, which has a character for each. */
  readonly lines: RegExp;
}

/** What the first lines have of a member. */
interface Member {
  readonly kinds: Set<'text' | 'boolean' | 'number'>;
  /** The most digits after the point. */
  scale: number;
}

/** Bytes that say what lines look like. */
const firstBytes = 1 << 18;
const longestInteger = 18;
/** Lines that one match takes: to call the pattern for each takes a quarter of the time. */
const linesAtOnce = 32;

/** RFC 8259, section 7, without halves of surrogate pairs, which are no characters, and without the character zero. */
const textPattern = String.raw`"[^"\\\x00-\x1f]*(?:\\(?:["\\/bfnrt]|u(?!0000|[dD][89a-fA-F])[0-9a-fA-F]{4})[^"\\\x00-\x1f]*)*"`;

const escaped = (text: string): string => text.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&');

/** Numbers that DuckDB reads, and writes as texts, to the last digit (RFC 8259, section 6). */
const numberPattern = (scale: number): string =>
  scale === 0
    ? `-?(?:0|[1-9][0-9]{0,${longestInteger - 1}})`
    : String.raw`-?(?!${escaped(tinyBeginning)})(?:0|[1-9][0-9]{0,${safeDigits - scale - 1}})(?:\.[0-9]{1,${scale}})?`;

/** The members of a line, and the digits that its numbers have after the point; null where it is not such a line. */
function membersOf(line: string): Map<string, { value: unknown; scale: number }> | null {
  const scales = new Map<string, number>();
  let record: unknown;
  try {
    record = JSON.parse(line);
  } catch {
    return null;
  }
  if (typeof record !== 'object' || record === null || Array.isArray(record)) return null;
  for (const [, key = '', part = ''] of line.matchAll(/"([^"\\]*)"\s*:\s*-?[0-9]+\.([0-9]+)/g))
    scales.set(key, part.length);
  return new Map(Object.entries(record).map(([key, value]) => [key, { value, scale: scales.get(key) ?? 0 }]));
}

function patternOf({ kinds, scale }: Member): string {
  const patterns = {
    text: textPattern,
    boolean: 'true|false',
    number: numberPattern(scale),
  };
  return `(?:${[...[...kinds].map((kind) => patterns[kind]), 'null'].join('|')})`;
}

const bytesOf = (text: string): string => Buffer.from(text).toString('latin1');

/** How the first lines of a file are written; null where they differ, or hold more than texts, numbers, and yes or no. */
export async function shapeOfFirst(file: string): Promise<LineShape | null> {
  const lines = await firstLines(file);
  const members = new Map<string, Member>();
  for (const line of lines) {
    const found = membersOf(Buffer.from(line, 'latin1').toString());
    if (!found || (members.size > 0 && found.size !== members.size)) return null;
    for (const [key, { value, scale }] of found) {
      const member = members.get(key) ?? { kinds: new Set(), scale: 0 };
      members.set(key, member);
      if (value === null) continue;
      if (typeof value === 'object') return null;
      member.kinds.add(typeof value === 'string' ? 'text' : typeof value === 'number' ? 'number' : 'boolean');
      member.scale = Math.max(member.scale, scale);
    }
  }
  if (members.size === 0 || [...members.values()].some(({ scale }) => scale >= safeDigits)) return null;
  const pairs = [...members].map(
    ([key, member]) => `${escaped(bytesOf(JSON.stringify(key)))} *: *${patternOf(member)}`,
  );
  const one = String.raw`\{ *${pairs.join(' *, *')} *\} *(?:\r?\n)+`;
  const isLine = new RegExp(`^${one}$`);
  if (!lines.every((each) => isLine.test(`${each}\n`))) return null;
  return {
    keys: [...members.keys()],
    types: ownTypes(members),
    texts: textsOf(members),
    lines: new RegExp(`(?:${one}){1,${linesAtOnce}}`, 'y'),
  };
}

function ownTypes(members: ReadonlyMap<string, Member>): Map<string, OwnType> {
  return new Map(
    [...members].flatMap(([key, { kinds, scale }]): [string, OwnType][] => {
      if (kinds.size !== 1 || kinds.has('text')) return [];
      if (kinds.has('boolean')) return [[key, { type: 'boolean' }]];
      return [[key, scale === 0 ? { type: 'integer' } : { type: 'decimal', scale }]];
    }),
  );
}

const textsOf = (members: ReadonlyMap<string, Member>): Set<string> =>
  new Set([...members].filter(([, { kinds }]) => kinds.has('text')).map(([key]) => key));

/** The whole lines that a file begins with, their bytes as Latin-1. */
async function firstLines(file: string): Promise<string[]> {
  const head = await fileHead(file, firstBytes);
  const lines = head.toString('latin1').split(/\r?\n/);
  if (head.length === firstBytes) lines.pop();
  return lines.filter((line) => line !== '');
}

/** Whether every line of a file is written so. */
export async function isOfShape(file: string, { lines }: LineShape): Promise<boolean> {
  let rest = '';
  const take = (text: string): void => {
    let at = 0;
    for (;;) {
      lines.lastIndex = at;
      if (!lines.test(text)) break;
      at = lines.lastIndex;
    }
    rest = text.slice(at);
  };
  for await (const text of textsIn(file)) {
    // A long line is looked at once it is whole.
    if (!text.includes('\n')) rest += text;
    else {
      take(rest + text);
      // A whole line that is left is another one.
      if (/[^\r\n]\r?\n/.test(rest)) return false;
    }
    if (rest.length > longestRecord) return false;
  }
  if (rest !== '') take(`${rest}\n`);
  return rest.trim() === '';
}

/** Bytes that are read at once, and those of them that are looked at while they are in the processor's cache. */
const [readBytes, textBytes] = [1 << 18, 1 << 16];

/** The bytes of a file as Latin-1, some at a time. */
async function* textsIn(file: string): AsyncGenerator<string> {
  const opened = await open(file);
  try {
    const bytes = Buffer.allocUnsafe(readBytes);
    for (;;) {
      const { bytesRead } = await opened.read(bytes, 0, readBytes, null);
      if (bytesRead === 0) return;
      for (let from = 0; from < bytesRead; from += textBytes)
        yield bytes.toString('latin1', from, Math.min(from + textBytes, bytesRead));
    }
  } finally {
    await opened.close();
  }
}
