import type { InstantSpan } from '#core/plan/span.ts';
import { comma, identifier, join, type Sql, sql } from '#core/sql/fragment.ts';
import type { KeptField, WriterField } from './kept-field.ts';
import { filesText, textOf } from './quote.ts';
import type { WrittenFile } from './segment.ts';
import { uniqueAmong } from './unique.ts';

/* What is told of files that were just written. */

/** Whoever wrote them. */
interface Asked {
  ask(query: string): Promise<unknown[][]>;
}

const all = (files: readonly WrittenFile[]): string => filesText(files.map(({ file }) => file));

/** The least and greatest instant of each field of instants. */
export async function spansIn(
  files: readonly WrittenFile[],
  fields: readonly KeptField[],
  of: Asked,
): Promise<Record<string, InstantSpan>> {
  const instants = fields.filter(({ type }) => type === 'instant');
  if (instants.length === 0 || files.length === 0) return {};
  const iso = (at: Sql): Sql => sql`strftime(${at}, '%Y-%m-%dT%H:%M:%S.%fZ')`;
  const ends = instants.flatMap(({ name }) => [
    iso(sql`min(${identifier(name)})`),
    iso(sql`max(${identifier(name)})`),
  ]);
  const [row = []] = await of.ask(`SELECT ${textOf(join(ends, comma))} FROM ${all(files)}`);
  return Object.fromEntries(
    instants.flatMap(({ name }, at) => {
      const [least, greatest] = row.slice(2 * at, 2 * at + 2);
      return typeof least === 'string' && typeof greatest === 'string' ? [[name, { least, greatest }]] : [];
    }),
  );
}

/** How many records there are, and in how many of them each column is filled. */
export async function filledIn(
  files: readonly WrittenFile[],
  names: readonly string[],
  of: Asked,
): Promise<{ total: number; filled: Map<string, number> }> {
  if (files.length === 0) return { total: 0, filled: new Map(names.map((name) => [name, 0])) };
  const counts = names.map((name) => sql`count(${identifier(name)})`);
  const [row = []] = await of.ask(`SELECT count(*), ${textOf(join(counts, comma))} FROM ${all(files)}`);
  return {
    total: Number(row[0] ?? 0),
    filled: new Map(names.map((name, at) => [name, Number(row[at + 1] ?? 0)])),
  };
}

/** Those of some columns that are filled and different in every record. */
export const uniqueIn = (
  files: readonly WrittenFile[],
  fields: readonly WriterField[],
  of: Asked,
): Promise<Set<string>> => uniqueAmong(of, fields, all(files), ({ type }) => type === 'text');
