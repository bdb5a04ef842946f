import { DuckDBListValue } from '@duckdb/node-api/lib/values/DuckDBListValue.js';
import type { FileReading } from '#core/dataset/upload.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { findLists, writeList } from './json-lists.ts';
import { stageRecords } from './json-records.ts';
import { literalText, nameText } from './quote.ts';
import {
  longestRecord,
  type Meanwhile,
  mostExamples,
  type Rejected,
  type StagedFile,
  unreadable,
} from './staged.ts';
import type { Staging } from './staging.ts';
import { titleLines } from './title-lines.ts';

const noneRejected = async (): Promise<Rejected> => ({ count: 0, examples: [] });

/**
 * Stages every record of a file as texts. Records that cannot be read are counted and shown, never dropped unseen. `early`
 * is what `meanwhile` came to where all records turned out to be as the first are. Throws a {@link ProblemError} where the
 * file as a whole cannot be read.
 */
export async function stageFile<T = never>(
  writer: Staging,
  file: string,
  reading: FileReading,
  meanwhile?: Meanwhile<T>,
): Promise<StagedFile & { readonly early?: T }> {
  try {
    switch (reading.kind) {
      case 'delimited':
        return await stageDelimited(writer, file, reading);
      case 'json':
        return await stageJson(writer, file, reading, meanwhile);
      case 'parquet':
        return await stageParquet(writer, file);
      case 'sheet':
        throw unreadable('it is a spreadsheet', 'Its sheet is read as CSV first.');
    }
  } catch (thrown) {
    if (thrown instanceof ProblemError) throw thrown;
    const message = (thrown instanceof Error ? thrown.message : String(thrown))
      .replaceAll(file, 'the file')
      .replaceAll(writer.place('list.ndjson'), 'the file')
      .split('\n')
      .slice(0, 2)
      .join(' ')
      .slice(0, 400);
    throw unreadable(message, 'Correct how it is read, or the file itself, and try again.');
  }
}

type Delimited = Extract<FileReading, { kind: 'delimited' }>;

const sizes = `max_line_size = ${longestRecord}, buffer_size = ${2 * longestRecord}`;

async function stageDelimited(writer: Staging, file: string, wish: Delimited): Promise<StagedFile> {
  const skip = wish.skip ?? (await titleLines(file, wish.encoding ?? 'utf-8'));
  const said = [
    ...(wish.delimiter === undefined ? [] : [`delim = ${literalText(wish.delimiter)}`]),
    ...(wish.quote === undefined ? [] : [`quote = ${literalText(wish.quote)}`]),
    ...(wish.header === undefined ? [] : [`header = ${wish.header}`]),
    ...(skip === 0 ? [] : [`skip = ${skip}`]),
    ...(wish.encoding === undefined ? [] : [`encoding = ${literalText(wish.encoding)}`]),
  ];
  const options = ['all_varchar = true', sizes, ...said].join(', ');
  const [found = []] = await writer.ask(
    `SELECT Delimiter, Quote, HasHeader FROM sniff_csv(${literalText(file)}, ${options}, ignore_errors = true)`,
  );
  const reading: Delimited = {
    kind: 'delimited',
    delimiter: wish.delimiter ?? String(found[0] ?? ','),
    // That no quote was seen at the beginning does not say that none comes: the usual one costs nothing.
    quote: wish.quote ?? (found[1] === '(empty)' ? '"' : String(found[1] ?? '"')),
    header: wish.header ?? found[2] === true,
    skip,
    encoding: wish.encoding ?? 'utf-8',
  };
  await writer.stage(await delimitedText(writer, file, reading, skip));
  return { reading, rejected: () => rejectedLines(writer) };
}

/**
 * SQL that reads a file. Its columns and whatever else DuckDB would find out are said, or it would look for them again each
 * time that the query is planned; of a file with nothing in it, it finds out nothing.
 */
async function delimitedText(
  writer: Staging,
  file: string,
  { delimiter = ',', quote = '"', header = true, encoding = 'utf-8' }: Delimited,
  skip: number,
): Promise<string> {
  const options = `${literalText(file)}, all_varchar = true, ${sizes}, delim = ${literalText(delimiter)}, quote = ${literalText(quote || '\u0007')},
      header = ${header}, skip = ${skip}, encoding = ${literalText(encoding)},
      store_rejects = true, rejects_table = 'rejected', rejects_scan = 'rejecting', rejects_limit = 0`;
  const [[columns, ...found] = []] = await writer
    .ask(
      `SELECT list_transform(Columns, lambda c: c.name), Escape, NewLineDelimiter, Comment FROM sniff_csv(${options})`,
    )
    .catch(() => []);
  if (!(columns instanceof DuckDBListValue)) return `SELECT * FROM read_csv(${options})`;
  const [escapes, newLine, comment] = found.map((each) =>
    literalText(each === '(empty)' ? '' : String(each)),
  );
  const texts = columns.items.map((name) => `${literalText(String(name))}: 'VARCHAR'`).join(', ');
  return `SELECT * FROM read_csv(${options}, auto_detect = false,
      escape = ${escapes}, new_line = ${newLine}, comment = ${comment}, columns = {${texts}})`;
}

/** DuckDB notes them each time the file is read; a line counts once. */
async function rejectedLines(writer: Staging): Promise<Rejected> {
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
async function stageJson<T>(
  writer: Staging,
  file: string,
  wish: Json,
  meanwhile?: Meanwhile<T>,
): Promise<StagedFile & { readonly early?: T }> {
  const lists = await findLists(file);
  const at = wish.at ?? lists[0]?.at ?? [];
  let records = file;
  if (at.length > 0) {
    records = writer.place('list.ndjson');
    await writeList(file, at, records);
  }
  const how = { reading: { kind: 'json' as const, at: [...at] }, lists };
  const staged = await stageRecords(
    writer,
    records,
    meanwhile && ((first) => meanwhile({ ...how, ...first })),
  );
  return { ...how, ...staged };
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

async function stageParquet(writer: Staging, file: string): Promise<StagedFile> {
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
