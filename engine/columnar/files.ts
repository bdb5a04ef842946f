import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import { DuckDBListValue } from '@duckdb/node-api';
import type { FileReading, RejectedRecord } from '#core/dataset/upload.ts';
import type { FieldType } from '#core/field/types.ts';
import { ProblemError } from '#core/problem/problem.ts';
import { exactJson, mayLoseDigits } from './exact-json.ts';
import { type FoundList, findLists, writeList } from './json-lists.ts';
import { literalText, nameText } from './quote.ts';
import { titleLines } from './title-lines.ts';
import type { SegmentWriter } from './writer.ts';

/** How many records could not be read, and the first of them. */
export interface Rejected {
  readonly count: number;
  readonly examples: readonly RejectedRecord[];
}

/** How a file was staged. */
export interface StagedFile {
  readonly reading: FileReading;
  /** The lists of records that a JSON document holds, the longest first. */
  readonly lists?: readonly FoundList[];
  /** The types that the file itself says. */
  readonly types?: ReadonlyMap<string, FieldType>;
  /** Fields of JSON whose values are written as texts: what looks like a number there is none. */
  readonly quoted?: ReadonlySet<string>;
  /** What could not be read; known once all records have been gone through. */
  readonly rejected: () => Promise<Rejected>;
}

const noneRejected = async (): Promise<Rejected> => ({ count: 0, examples: [] });

const mostExamples = 20;
/** A line or JSON record longer than this is refused, so that one record cannot take all memory. */
const longestRecord = 4 * 1024 * 1024;
const mostColumns = 1600;
/** So many records of JSON say which of its fields are texts. */
const typesFrom = 5_000;

const refused = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'reading the file', why, mend });

/**
 * Stages every record of a file as texts. Records that cannot be read are counted and shown, never dropped unseen. Throws
 * a {@link ProblemError} where the file as a whole cannot be read.
 */
export async function stageFile(
  writer: SegmentWriter,
  file: string,
  reading: FileReading,
): Promise<StagedFile> {
  try {
    switch (reading.kind) {
      case 'delimited':
        return await stageDelimited(writer, file, reading);
      case 'json':
        return await stageJson(writer, file, reading);
      case 'parquet':
        return await stageParquet(writer, file);
      case 'sheet':
        throw refused('it is a spreadsheet', 'Its sheet is read as CSV first.');
    }
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    const said = (thrown instanceof Error ? thrown.message : String(thrown))
      .replaceAll(file, 'the file')
      .replaceAll(writer.place('list.ndjson'), 'the file')
      .split('\n')
      .slice(0, 2)
      .join(' ')
      .slice(0, 400);
    throw refused(said, 'Correct how it is read, or the file itself, and try again.');
  }
}

type Delimited = Extract<FileReading, { kind: 'delimited' }>;

async function stageDelimited(writer: SegmentWriter, file: string, asked: Delimited): Promise<StagedFile> {
  const skip = asked.skip ?? (await titleLines(file, asked.encoding ?? 'utf-8'));
  const said = [
    ...(asked.delimiter === undefined ? [] : [`delim = ${literalText(asked.delimiter)}`]),
    ...(asked.quote === undefined ? [] : [`quote = ${literalText(asked.quote)}`]),
    ...(asked.header === undefined ? [] : [`header = ${asked.header}`]),
    ...(skip === 0 ? [] : [`skip = ${skip}`]),
    ...(asked.encoding === undefined ? [] : [`encoding = ${literalText(asked.encoding)}`]),
  ];
  const size = `max_line_size = ${longestRecord}, buffer_size = ${2 * longestRecord}`;
  const options = ['all_varchar = true', size, ...said].join(', ');
  const [found = []] = await writer.ask(
    `SELECT Delimiter, Quote, HasHeader FROM sniff_csv(${literalText(file)}, ${options}, ignore_errors = true)`,
  );
  const reading: Delimited = {
    kind: 'delimited',
    delimiter: asked.delimiter ?? String(found[0] ?? ','),
    // That no quote was seen at the beginning does not say that none comes: the usual one costs nothing.
    quote: asked.quote ?? (found[1] === '(empty)' ? '"' : String(found[1] ?? '"')),
    header: asked.header ?? found[2] === true,
    skip,
    encoding: asked.encoding ?? 'utf-8',
  };
  await writer.stage(
    `SELECT * FROM read_csv(${literalText(file)}, all_varchar = true, ${size}, delim = ${literalText(reading.delimiter ?? ',')},
      quote = ${literalText(reading.quote || '\u0007')}, header = ${reading.header}, skip = ${skip}, encoding = ${literalText(reading.encoding ?? 'utf-8')},
      store_rejects = true, rejects_table = 'rejected', rejects_scan = 'rejecting', rejects_limit = 0)`,
  );
  return { reading, rejected: () => rejectedLines(writer) };
}

/** DuckDB notes them each time the file is read; a line counts once. */
async function rejectedLines(writer: SegmentWriter): Promise<Rejected> {
  const [counted = []] = await writer.ask('SELECT count(DISTINCT line) FROM rejected');
  const examples = await writer.ask(
    `SELECT line, any_value(csv_line), any_value(error_message) FROM rejected GROUP BY line ORDER BY line LIMIT ${mostExamples}`,
  );
  return {
    count: Number(counted[0] ?? 0),
    examples: examples.map(([line, text, why]) => ({
      line: Number(line),
      text: String(text).slice(0, 300),
      why: String(why),
    })),
  };
}

type Json = Extract<FileReading, { kind: 'json' }>;

/** A document that holds its records in a list is read from there, unless somebody says otherwise. */
async function stageJson(writer: SegmentWriter, file: string, asked: Json): Promise<StagedFile> {
  const lists = await findLists(file);
  const at = asked.at ?? lists[0]?.at ?? [];
  let records = file;
  if (at.length > 0) {
    records = writer.place('list.ndjson');
    await writeList(file, at, records);
  }
  return { ...(await stageRecords(writer, records)), reading: { kind: 'json', at: [...at] }, lists };
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

/** JSON: one array of records, one record, or records one after the other. Values that are records or lists stay JSON. */
async function stageRecords(
  writer: SegmentWriter,
  file: string,
): Promise<Pick<StagedFile, 'rejected' | 'quoted'>> {
  const records = `read_json_objects(${literalText(file)}, format = 'auto', maximum_object_size = ${longestRecord}, ignore_errors = true)`;
  // What it begins with tells, without reading it through once more.
  const isObject = `starts_with(ltrim(json::VARCHAR), '{')`;
  // Records of one make share their list of keys, so that there are few lists however many records there are.
  const makes = await writer.ask(
    `SELECT any_value(keys), count(*), bool_or(long) FROM (
       SELECT CASE WHEN ${isObject} THEN json_keys(json) END AS keys, ${mayLoseDigits('json::VARCHAR')} AS long FROM ${records})
     GROUP BY hash(keys)`,
  );
  const found = new Map<string, number>();
  let [all, objects] = [0, 0];
  for (const [list, counted] of makes) {
    const count = Number(counted);
    all += count;
    if (!(list instanceof DuckDBListValue)) continue;
    objects += count;
    for (const key of new Set(list.items.map(String))) found.set(key, (found.get(key) ?? 0) + count);
  }
  if (all > 0 && objects === 0)
    throw refused('it holds no records, only bare values', 'Give a list of objects, or one object a line.');
  // Fields of all records stand in the order of the first; those that only some have come after.
  const keys = [...found].sort(([, a], [, b]) => b - a).map(([key]) => key);
  if (keys.length > mostColumns)
    throw refused(
      `its records have more than ${mostColumns} different fields`,
      'Give records of fewer fields.',
    );
  if (keys.length === 0) throw refused('its records have no fields', 'Give records that hold something.');
  const used = new Set<string>();
  const names = keys.map((key) => {
    let unique = key || 'unnamed';
    for (let n = 2; used.has(unique.toLowerCase()); n += 1) unique = `${key}_${n}`;
    used.add(unique.toLowerCase());
    return nameText(unique.slice(0, 200));
  });
  const isExact = !makes.some(([, , long]) => long === true);
  // DuckDB reads members by name more quickly than it looks them up, but its names do not tell capitals from small letters.
  const isPlain =
    objects === all &&
    isExact &&
    keys.every((key) => key !== '' && key.length <= 200) &&
    new Set(keys.map((key) => key.toLowerCase())).size === keys.length;
  const pointers = keys.map((key) => literalText(`/${key.replaceAll('~', '~0').replaceAll('/', '~1')}`));
  await writer.stage(
    isPlain
      ? `SELECT * FROM read_json(${literalText(file)}, format = 'auto', maximum_object_size = ${longestRecord},
          columns = {${keys.map((key) => `${literalText(key)}: 'VARCHAR'`).join(', ')}})`
      : `SELECT ${names.map((name, at) => `members[${at + 1}] AS ${name}`).join(', ')} FROM (
          SELECT json_extract_string(${isExact ? 'json' : exactJson('json::VARCHAR')}, [${pointers.join(', ')}]) AS members
          FROM ${records} WHERE ${isObject})`,
  );
  const unread = all - objects;
  const [kinds = []] = await writer.ask(
    `SELECT ${pointers.map((pointer) => `bool_or(json_type(json, ${pointer}) = 'VARCHAR')`).join(', ')} FROM (SELECT json FROM ${records} WHERE ${isObject} LIMIT ${typesFrom})`,
  );
  return {
    quoted: new Set(writer.names.filter((_, at) => kinds[at] === true)),
    rejected: async () => ({ count: unread, examples: unread > 0 ? await examplesOf(file, unread) : [] }),
  };
}

async function examplesOf(file: string, unread: number): Promise<RejectedRecord[]> {
  const lines = await unreadLines(file);
  return lines.length > 0 && lines.length <= unread
    ? lines
    : [{ line: 0, text: '', why: `${unread} values beside the records are not records` }];
}

/** A type of DuckDB's, which reads a Parquet file's own types as its own, as that of a field. */
function typeOfColumn(kind: string): FieldType {
  if (/^(TINYINT|SMALLINT|INTEGER|BIGINT|UTINYINT|USMALLINT|UINTEGER)$/.test(kind)) return 'integer';
  if (/^(DECIMAL|HUGEINT|UHUGEINT|UBIGINT)/.test(kind)) return 'decimal';
  if (/^(FLOAT|DOUBLE)$/.test(kind)) return 'float';
  if (kind === 'BOOLEAN') return 'boolean';
  if (kind === 'DATE') return 'date';
  if (/^TIMESTAMP/.test(kind)) return 'instant';
  return /^(STRUCT|MAP|UNION|JSON)|\[\d*\]$/.test(kind) ? 'nested' : 'text';
}

async function stageParquet(writer: SegmentWriter, file: string): Promise<StagedFile> {
  const described = await writer.ask(`DESCRIBE SELECT * FROM read_parquet(${literalText(file)})`);
  const types = new Map(described.map(([column, kind]) => [String(column), typeOfColumn(String(kind))]));
  const columns = [...types].map(([column, type]) => {
    const of = nameText(column);
    // Moments without a zone are taken as UTC; what has a structure is written as JSON.
    if (type === 'instant') return `strftime(CAST(${of} AS TIMESTAMP), '%Y-%m-%dT%H:%M:%S.%fZ') AS ${of}`;
    if (type === 'nested') return `CAST(to_json(${of}) AS VARCHAR) AS ${of}`;
    return `CAST(${of} AS VARCHAR) AS ${of}`;
  });
  await writer.stage(`SELECT ${columns.join(', ')} FROM read_parquet(${literalText(file)})`);
  return { reading: { kind: 'parquet' }, types, rejected: noneRejected };
}
