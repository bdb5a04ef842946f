import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { isDeepStrictEqual } from 'node:util';
import { DuckDBListValue } from '@duckdb/node-api/lib/values/DuckDBListValue.js';
import type { RejectedRecord } from '#core/dataset/upload.ts';
import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import { exactJson, mayHoldLong } from './exact-json.ts';
import { isOfShape, type OwnType, shapeOfFirst } from './line-shape.ts';
import { literalText, nameText } from './quote.ts';
import { longestRecord, mostExamples, type StagedFile, unreadable } from './staged.ts';
import type { Staging } from './staging.ts';

/* JSON: one array of records, one record, or records one after the other. Values that are records or lists stay JSON. */

type StagedRecords = Pick<StagedFile, 'rejected' | 'quoted'>;

const mostColumns = 1600;
/** This many records say which fields are texts, and what the others most likely have. */
const firstRecords = 5_000;

/** What the records of a file have. */
interface Makes {
  readonly all: number;
  readonly objects: number;
  /** In the order of the first; those that only some have come after. */
  readonly keys: readonly string[];
  /** No number has more digits than DuckDB keeps. */
  readonly isExact: boolean;
}

const firstTable = 'first_records';
const objectsText = (file: string): string =>
  `read_json_objects(${literalText(file)}, format = 'auto', maximum_object_size = ${longestRecord}, ignore_errors = true)`;
const firstText = (file: string): string => `(SELECT json FROM ${objectsText(file)} LIMIT ${firstRecords})`;
/** What it begins with tells, without reading it through once more. */
const isObject = `starts_with(ltrim(json::VARCHAR), '{')`;

/** SQL of the makes of records there are; those of one make share their list of keys, so that there are few lists. */
const makesText = (from: string): string =>
  `SELECT any_value(keys), count(*) FROM (SELECT CASE WHEN ${isObject} THEN json_keys(json) END AS keys FROM ${from})
   GROUP BY hash(keys)`;

function makesOf(rows: readonly unknown[][], isExact: boolean): Makes {
  const found = new Map<string, number>();
  let [all, objects] = [0, 0];
  for (const [list, counted] of rows) {
    const count = Number(counted);
    all += count;
    if (!(list instanceof DuckDBListValue)) continue;
    objects += count;
    for (const key of new Set(list.items.map(String))) found.set(key, (found.get(key) ?? 0) + count);
  }
  const keys = [...found].sort(([, a], [, b]) => b - a).map(([key]) => key);
  return { all, objects, keys, isExact };
}

/** DuckDB reads members by name more quickly than it looks them up, but its names do not tell capitals from small letters. */
const isPlain = ({ all, objects, keys, isExact }: Makes): boolean =>
  objects === all &&
  isExact &&
  keys.length > 0 &&
  keys.length <= mostColumns &&
  keys.every((key) => key !== '' && key.length <= 200) &&
  new Set(keys.map((key) => key.toLowerCase())).size === keys.length;

function refuse({ all, objects, keys }: Makes): void {
  if (all > 0 && objects === 0)
    throw unreadable(
      'it holds no records, only bare values',
      'Give a list of objects, or one object a line.',
    );
  if (keys.length > mostColumns)
    throw unreadable(
      `its records have more than ${mostColumns} different fields`,
      'Give records of fewer fields.',
    );
  if (keys.length === 0) throw unreadable('its records have no fields', 'Give records that hold something.');
}

/** SQL that reads members by name, each as a type of DuckDB's. */
const membersText = (file: string, types: readonly (readonly [string, string])[]): string =>
  `SELECT * FROM read_json(${literalText(file)}, format = 'auto', maximum_object_size = ${longestRecord},
    columns = {${types.map(([key, type]) => `${literalText(key)}: '${type}'`).join(', ')}})`;
const textsText = (file: string, keys: readonly string[]): string =>
  membersText(
    file,
    keys.map((key) => [key, 'VARCHAR']),
  );

/** `first`: where the first records are read from. */
async function stageAs(writer: Staging, file: string, makes: Makes, first: string): Promise<StagedRecords> {
  refuse(makes);
  const { all, objects, keys, isExact } = makes;
  const used = new Set<string>();
  const names = keys.map((key) => {
    let unique = key || 'unnamed';
    for (let n = 2; used.has(unique.toLowerCase()); n += 1) unique = `${key}_${n}`;
    used.add(unique.toLowerCase());
    return nameText(unique.slice(0, 200));
  });
  const pointers = keys.map((key) => literalText(`/${key.replaceAll('~', '~0').replaceAll('/', '~1')}`));
  await writer.stage(
    isPlain(makes)
      ? textsText(file, keys)
      : `SELECT ${names.map((name, at) => `members[${at + 1}] AS ${name}`).join(', ')} FROM (
          SELECT json_extract_string(${isExact ? 'json' : exactJson('json::VARCHAR')}, [${pointers.join(', ')}]) AS members
          FROM ${objectsText(file)} WHERE ${isObject})`,
  );
  const unread = all - objects;
  const { names: staged } = writer;
  const pointerOf = new Map(staged.map((name, at) => [name, pointers[at] ?? '']));
  return {
    quoted: (among) => quotedIn(writer, pointerOf, among === 'all' ? objectsText(file) : first),
    rejected: async () => ({ count: unread, examples: unread > 0 ? await examplesOf(file, unread) : [] }),
  };
}

/** The names of members, by their pointers, that are texts somewhere. */
async function quotedIn(
  writer: Staging,
  pointers: ReadonlyMap<string, string>,
  from: string,
): Promise<Set<string>> {
  const isText = [...pointers.values()].map((pointer) => `bool_or(json_type(json, ${pointer}) = 'VARCHAR')`);
  const [found = []] = await writer.ask(`SELECT ${isText.join(', ')} FROM ${from} WHERE ${isObject}`);
  return new Set([...pointers.keys()].filter((_, at) => found[at] === true));
}

interface Begun<T> {
  readonly makes: Makes;
  readonly staged: StagedRecords;
  readonly early: Promise<T | undefined>;
}

/** Begins with what the first records have, which are read once; null where they are out of the ordinary. */
async function begin<T>(
  writer: Staging,
  file: string,
  meanwhile: (staged: StagedRecords) => Promise<T>,
): Promise<Begun<T> | null> {
  await writer.ask(`CREATE OR REPLACE TEMP TABLE ${firstTable} AS SELECT json FROM ${firstText(file)}`);
  // Whether all of them are exact is found out meanwhile.
  const makes = makesOf(await writer.ask(makesText(firstTable)), true);
  if (!isPlain(makes)) return null;
  const staged = await stageAs(writer, file, makes, firstTable);
  return { makes, staged, early: meanwhile(staged).catch(() => undefined) };
}

/** Stages a file whose every line is written alike, and works on it `meanwhile` that is found out; null where one is not. */
async function stageLines<T>(
  writer: Staging,
  file: string,
  meanwhile?: (staged: StagedRecords) => Promise<T>,
): Promise<(StagedRecords & { readonly early?: T }) | null> {
  const shape = await shapeOfFirst(file);
  if (!shape || !isPlain({ all: 1, objects: 1, keys: shape.keys, isExact: true })) return null;
  const { keys, types, texts } = shape;
  const staged: StagedRecords = {
    quoted: async () => texts,
    rejected: async () => ({ count: 0, examples: [] }),
  };
  await writer.stage(textsText(file, keys), {
    types,
    query: (columns) =>
      membersText(
        file,
        keys.map((key) => [key, columns.has(key) ? columnOf(types.get(key)) : 'VARCHAR']),
      ),
  });
  const going = meanwhile?.(staged).catch(() => undefined);
  // What is going on must have ended before anything is closed, whatever happens to the file.
  const isAlike = await isOfShape(file, shape).catch(() => false);
  if (!isAlike) {
    if (going) await stopped(writer, going);
    return null;
  }
  if (!going) return staged;
  const early = await going;
  return early === undefined ? null : { ...staged, early };
}

const columnOf = (own: OwnType | undefined): string =>
  own ? columnType(own.type, own.type === 'decimal' ? own.scale : undefined, 18) : 'VARCHAR';

/**
 * Stages the records of a file. Most files hold what their first records say: so `meanwhile` begins with those while the
 * keys of all are looked for, and is stopped where others turn up. What it throws is thrown again by whoever needs it.
 */
export async function stageRecords<T>(
  writer: Staging,
  file: string,
  meanwhile?: (staged: StagedRecords) => Promise<T>,
): Promise<StagedRecords & { readonly early?: T }> {
  const alike = await stageLines(writer, file, meanwhile);
  if (alike) return alike;
  const [whole, first] = await Promise.allSettled([
    Promise.all([writer.askBeside(makesText(objectsText(file))), mayHoldLong(file)]).then(([rows, isLong]) =>
      makesOf(rows, !isLong),
    ),
    meanwhile ? begin(writer, file, meanwhile) : null,
  ]);
  const begun = first.status === 'fulfilled' ? first.value : null;
  const makes = whole.status === 'fulfilled' ? whole.value : null;
  if (begun && makes && isPlain(makes) && isDeepStrictEqual(begun.makes.keys, makes.keys)) {
    const early = await begun.early;
    return early === undefined ? begun.staged : { ...begun.staged, early };
  }
  if (begun) await stopped(writer, begun.early);
  if (whole.status === 'rejected') throw whole.reason;
  if (first.status === 'rejected') throw first.reason;
  return stageAs(writer, file, whole.value, meanwhile ? firstTable : firstText(file));
}

/** Ends what is going on, one question after the other. */
async function stopped(writer: Staging, going: Promise<unknown>): Promise<void> {
  const timer = setInterval(() => writer.interrupt(), 20);
  await going.finally(() => clearInterval(timer));
}

/** The lines that cannot be read as JSON, and why. */
async function unreadLines(file: string): Promise<RejectedRecord[]> {
  const unread: RejectedRecord[] = [];
  let line = 0;
  const lines = createInterface({ input: createReadStream(file), crlfDelay: Number.POSITIVE_INFINITY });
  for await (const text of lines) {
    line += 1;
    if (text.trim() === '') continue;
    try {
      const value: unknown = JSON.parse(text);
      if (typeof value === 'object' && value !== null && !Array.isArray(value)) continue;
      unread.push({ line, text: text.slice(0, 300), why: 'it is a bare value, not a record' });
    } catch (thrown) {
      unread.push({ line, text: text.slice(0, 300), why: (thrown as Error).message.slice(0, 200) });
    }
    if (unread.length === mostExamples) break;
  }
  return unread;
}

async function examplesOf(file: string, unread: number): Promise<RejectedRecord[]> {
  const lines = await unreadLines(file);
  return lines.length > 0 && lines.length <= unread
    ? lines
    : [{ line: 0, text: '', why: `${unread} values beside the records are not records` }];
}
