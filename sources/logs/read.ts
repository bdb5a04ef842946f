import { open } from 'node:fs/promises';
import { findMembers, isWrittenAsText } from '#core/dataset/http/members.ts';
import {
  groupNames,
  guessFormat,
  marksOf,
  patternOf,
  patternProblem,
  re2Pattern,
} from '#core/dataset/log/formats.ts';
import type { LineFormat, TimeFormat } from '#core/dataset/log/schema.ts';
import type { Column, Request } from '#core/dataset/schema.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import { fitsColumn, joinedSql, lineColumn, linesSql, recordsSql } from '#engine/columnar/lines.ts';
import { literalText, nameText } from '#engine/columnar/quote.ts';
import type { Rejected } from '#engine/columnar/staged.ts';
import type { Staging } from '#engine/columnar/staging.ts';
import type { ConnectionReport, Trial, TriedLine } from '../kind.ts';
import { type Fetch, type FetchInto, type FetchResult, TooManyRecords } from '../kind.ts';
import { typedSample } from '../typed-sample.ts';
import { bytesFrom, findFiles, type LogFile, listedFolder } from './files.ts';
import { clean, followFiles, LogPosition } from './follow.ts';

export type LogRequest = Extract<Request, { kind: 'log' }>;

/** Bytes taken in one refresh; what is more comes in the next, at once. */
const mostAtOnce = 1_000_000_000;
const mostRejectedShown = 1000;
const triedBytes = 400_000;
const triedLines = 2000;
const shownLines = 60;

/** Looks into the folder. Throws a {@link ProblemError} in plain words. */
export async function testLogs(
  folder: string,
  listed: readonly string[],
  now: () => Date,
): Promise<ConnectionReport> {
  const started = performance.now();
  const files = await findFiles(await listedFolder(folder, listed), '**');
  const size = files.reduce((sum, file) => sum + file.size, 0);
  const latest = files.at(-1);
  return {
    facts: [
      { name: 'Files', value: files.length.toLocaleString('en-GB') },
      { name: 'Size', value: `${(size / 1e6).toFixed(1)} MB` },
      ...(latest ? [{ name: 'Latest', value: latest.name }] : []),
    ],
    warnings: files.length === 0 ? ['There are no files in it yet.'] : [],
    clockSkewMs: null,
    tookMs: Math.round(performance.now() - started),
    at: now().toISOString(),
  };
}

async function firstLines(file: LogFile): Promise<string[]> {
  const pieces: Buffer[] = [];
  let size = 0;
  const source = bytesFrom(file, 0);
  try {
    for await (const piece of source) {
      pieces.push(piece as Buffer);
      size += (piece as Buffer).length;
      if (size >= triedBytes) break;
    }
  } catch {
    // A packed file that is cut off is tried by what there is of it.
  } finally {
    source.destroy();
  }
  const lines = clean(Buffer.concat(pieces).subarray(0, triedBytes)).toString('utf8').split(/\r?\n/);
  if (size >= triedBytes) lines.splice(-2);
  return lines.filter((line) => line !== '').slice(0, triedLines);
}

const wrong = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'trying the lines', why, mend });

/** What DuckDB said of a pattern, without the rest of the statement. */
function patternError(thrown: unknown): ProblemError {
  if (thrown instanceof ProblemError) return thrown;
  const message = thrown instanceof Error ? thrown.message : String(thrown);
  return wrong(
    message.split('\n')[0]?.slice(0, 300) ?? message,
    'Correct the pattern. Patterns are RE2’s: they look neither ahead nor back.',
  );
}

/** The lines that are JSON, read. */
const objectsIn = (lines: readonly string[]): unknown[] =>
  lines.flatMap((text): unknown[] => {
    try {
      return [JSON.parse(text)];
    } catch {
      return [];
    }
  });

/** The columns that a format gives by itself, before anybody has chosen. */
function usualColumns(line: LineFormat, lines: readonly string[]): { column: string; name: string }[] {
  const pattern = patternOf(line);
  if (pattern !== null) return groupNames(pattern).map((name) => ({ column: name, name }));
  switch (line.kind) {
    case 'json':
      return findMembers(objectsIn(lines));
    case 'pairs': {
      const keys = new Set(
        lines.flatMap((text) =>
          [...text.matchAll(/(?:^|\s)([A-Za-z_][\w.\-/]*)=/g)].map(([, key = '']) => key),
        ),
      );
      return [...keys].slice(0, 500).map((key) => ({ column: key, name: key.replaceAll(/[./-]/g, '_') }));
    }
    case 'delimited':
      return line.names.map((name) => ({ column: name, name }));
    default:
      return [];
  }
}

const timeShapes: readonly [TimeFormat, RegExp][] = [
  ['clf', /^\d{2}\/[A-Z][a-z]{2}\/\d{4}:\d{2}:\d{2}:\d{2} [+-]\d{4}$/],
  ['utc', /^\d{4}-\d{2}-\d{2}[ T]\d{2}:\d{2}:\d{2}([.,]\d+)? ?(UTC|GMT)$/],
  ['local', /^\d{4}-\d{2}-\d{2}[ T]\d{2}:\d{2}:\d{2}([.,]\d+)?$/],
  ['milliseconds', /^1[4-9]\d{11}$/],
  ['seconds', /^1[4-9]\d{8}(\.\d+)?$/],
];

/** How a column that is not read as a moment yet writes one, by its name and its texts. */
function timeOf(name: string, texts: readonly string[]): TimeFormat | null {
  const [format] =
    timeShapes.find(([, shape]) => texts.length > 0 && texts.every((text) => shape.test(text))) ?? [];
  if (!format) return null;
  return /seconds$/.test(format) && !/(^|_)(at|on|time|ts|timestamp|date|when|epoch)(_|$)/i.test(name)
    ? null
    : format;
}

/**
 * Reads the lines of a log's latest files as records. With `find` the format is found from the lines; otherwise they are
 * read as the request says, and its columns keep their types. Throws a {@link ProblemError}.
 */
export async function tryLogs(
  folder: string,
  listed: readonly string[],
  request: LogRequest,
  find: boolean,
  limit = 50,
): Promise<Trial> {
  const started = performance.now();
  const files = await findFiles(await listedFolder(folder, listed), request.files);
  const latest = files.filter(({ size }) => size > 0).reverse();
  if (latest.length === 0)
    throw new ProblemError({
      code: 'missing',
      doing: 'trying the lines',
      why: `no file of the folder is called like ${request.files}, or none has lines yet`,
      mend: 'Correct the name; * stands for anything, ** for any folders.',
    });
  const lines: string[] = [];
  for (const file of latest.slice(0, 5)) {
    lines.push(...(await firstLines(file)).slice(0, triedLines - lines.length));
    if (lines.length >= triedLines) break;
  }
  const line = find ? guessFormat(lines.slice(0, 200)) : request.line;
  if (line.kind === 'pattern') {
    const bad = patternProblem(line.pattern);
    if (bad) throw wrong(bad, 'Correct the pattern.');
  }
  const { columns, ...tried } = await tryLines({
    line,
    first: request.first,
    columns: find ? [] : request.columns,
    lines,
    limit,
    started,
  });
  return {
    ...tried,
    request: { ...request, line, columns },
    lines: { ...tried.lines, files: latest.slice(0, 50).map(({ name }) => name) },
  };
}

export interface LineTrial {
  readonly line: LineFormat;
  readonly first?: string | undefined;
  /** Columns as they were chosen, whose types stay; those of the format that are not among them are added. */
  readonly columns: readonly Column[];
  readonly lines: readonly string[];
  readonly limit: number;
  readonly started: number;
}

type TriedLines = Omit<Trial, 'request' | 'lines'> & {
  readonly columns: Column[];
  readonly lines: NonNullable<Trial['lines']>;
};

/** Lays lines out as records, with what became of each line. Throws a {@link ProblemError}. */
export async function tryLines(trial: LineTrial): Promise<TriedLines> {
  const known = new Map(trial.columns.map((column) => [column.column, column]));
  const named: Named[] = usualColumns(trial.line, trial.lines).map((each) => known.get(each.column) ?? each);
  try {
    return await laidOut(trial, named);
  } catch (thrown) {
    throw patternError(thrown);
  }
}

type Named = Pick<Column, 'column' | 'name'> & Partial<Pick<Column, 'type' | 'time'>>;
interface Seen {
  readonly sample: TriedLine[];
  readonly matched: number;
  readonly missed: number;
  readonly times: readonly (TimeFormat | null)[];
}

async function laidOut(
  { line, first, lines, limit, started }: LineTrial,
  named: readonly Named[],
): Promise<TriedLines> {
  let seen: Seen = { sample: [], matched: 0, missed: 0, times: [] };
  const objects = line.kind === 'json' ? objectsIn(lines) : [];
  const names = named.map(({ name }) => nameText(name)).join(', ') || lineColumn;
  const looked = await typedSample(
    [],
    async (writer) => {
      await writeLines(writer, 'lines', lines);
      const source = sourceSql(writer.place('lines'), first);
      const isJoined = first !== undefined;
      // First as texts, to see how moments are written; then with those read.
      const texts = named.map((each) => ({ column: each.column, name: each.name, type: 'text' as const }));
      seen = await lookAtLines(writer, recordsSql(source, { line, isJoined, columns: texts }), named);
      const moments = texts.map((each, at) => {
        const time = seen.times[at];
        return time ? { ...each, type: 'instant' as const, time } : each;
      });
      const typed = recordsSql(source, { line, isJoined, columns: moments });
      await writer.stage(`SELECT ${names} FROM (${typed}) WHERE ${fitsColumn}`);
    },
    limit,
    undefined,
    (name) => {
      const own = named.find((each) => each.name === name);
      return own !== undefined && isWrittenAsText(objects, own.column);
    },
  );
  const columns = looked.fields.slice(0, named.length).map(({ name, type }, at): Column => {
    const said = named[at]?.type;
    const time = seen.times[at];
    return {
      column: named[at]?.column ?? name,
      name,
      type: time ? 'instant' : (said ?? type),
      ...(time ? { time } : {}),
    };
  });
  const { sample, matched, missed } = seen;
  return {
    columns,
    fields: columns.map(({ name, type }) => ({ name, type })),
    records: looked.records,
    mixed: looked.mixed,
    took: performance.now() - started,
    more: true,
    lines: { sample, matched, missed, files: [] },
  };
}

/** Which lines fit, where their fields stand, and how moments are written in them. */
async function lookAtLines(writer: Staging, records: string, named: readonly Named[]): Promise<Seen> {
  const [counted = []] = await writer.ask(
    `SELECT count(*) FILTER (WHERE ${fitsColumn}), count(*) FILTER (WHERE NOT ${fitsColumn}) FROM (${records})`,
  );
  const [matched = 0, missed = 0] = counted.map(Number);
  const names = named.map(({ name }) => nameText(name)).join(', ') || lineColumn;
  const shown = await writer.ask(
    `SELECT ${lineColumn}, ${fitsColumn}, ${names} FROM (${records}) LIMIT ${shownLines}`,
  );
  const odd =
    missed > 0
      ? await writer.ask(
          `SELECT ${lineColumn}, ${fitsColumn} FROM (${records}) WHERE NOT ${fitsColumn} LIMIT 10`,
        )
      : [];
  const textAt = (row: readonly unknown[], at: number): string | null =>
    row[at + 2] === null || row[at + 2] === undefined ? null : String(row[at + 2]);
  const sample = [...shown, ...odd.filter(([text]) => !shown.some(([each]) => each === text))].map((row) => ({
    text: String(row[0]).slice(0, 2000),
    marks: row[1]
      ? marksOf(
          String(row[0]),
          named.map(({ name }, at) => ({ name, text: textAt(row, at) })),
        )
      : null,
  }));
  const good = shown.filter(([, fits]) => fits);
  const times = named.map(
    ({ name, time }, at) =>
      time ??
      timeOf(
        name,
        good.flatMap((row) => textAt(row, at) ?? []),
      ),
  );
  return { sample, matched, missed, times };
}

async function writeLines(writer: Staging, name: string, lines: readonly string[]): Promise<void> {
  const handle = await open(writer.place(name), 'w');
  await handle.writeFile(lines.map((text) => `${text}\n`).join(''));
  await handle.close();
}

/** Fetches what was written since the last time. Lines that do not fit are counted and kept, never dropped unseen. */
export const fetchLogs =
  (folder: string, listed: readonly string[]): FetchInto =>
  async (writer, { request, fields, position, doing, signal, most, progress }) => {
    const { files: glob, line, first, columns } = request as LogRequest;
    const before = LogPosition.safeParse(position);
    const files = await findFiles(await listedFolder(folder, listed), glob);
    const place = writer.place('lines');
    const followed = await followFiles(files, before.success ? before.data : null, place, {
      most: mostAtOnce,
      lastRecord: first === undefined ? undefined : (text) => lastStart(writer, text, first),
      signal,
    });
    const taken = await takeInLines(writer, { place, line, first, columns, fields });
    if (most !== undefined && taken.records > most) throw new TooManyRecords(doing, most);
    await progress(taken.records);
    return { ...taken, position: followed.position, more: followed.more };
  };

export interface LineStaging {
  /** The file that the lines are in. */
  readonly place: string;
  readonly line: LineFormat;
  readonly first?: string | undefined;
  readonly columns: readonly Column[];
  readonly fields: Fetch['fields'];
}

/** Stages lines as records: how many there are, and how to find those that did not fit. */
export async function takeInLines(
  writer: Staging,
  { place, line, first, columns, fields }: LineStaging,
): Promise<Required<Pick<FetchResult, 'records' | 'rejected'>>> {
  const wanted = fields.map(({ name, type }) => {
    const column = columns.find((each) => each.name === name);
    return { ...column, column: column?.column ?? name, name, type };
  });
  const source = sourceSql(place, first);
  const records = recordsSql(source, { line, isJoined: first !== undefined, columns: wanted });
  await writer.stage(
    `SELECT ${wanted.map(({ name }) => nameText(name)).join(', ')} FROM (${records}) WHERE ${fitsColumn}`,
  );
  // Counting lines costs nothing beside reading what is in them, so what did not fit is the difference.
  const [counted = []] = await writer.ask(`SELECT count(*) FROM (${source})`);
  const total = Number(counted[0] ?? 0);
  return {
    records: total,
    rejected: (written) => rejectedOf(writer, records, written === null ? null : total - written),
  };
}

/** The lines of a file, joined where a record can be several. */
const sourceSql = (place: string, first: string | undefined): string =>
  first === undefined ? linesSql(place) : joinedSql(linesSql(place), first);

/** Lines that did not become records: how many, and the first of them. */
async function rejectedOf(writer: Staging, records: string, known: number | null): Promise<Rejected> {
  const ask = async (): Promise<number> =>
    Number((await writer.ask(`SELECT count(*) FROM (${records}) WHERE NOT ${fitsColumn}`))[0]?.[0] ?? 0);
  const count = known ?? (await ask());
  if (count <= 0) return { count: 0, examples: [] };
  const rows = await writer.ask(
    `SELECT ${lineColumn} FROM (${records}) WHERE NOT ${fitsColumn} LIMIT ${mostRejectedShown}`,
  );
  return {
    count,
    examples: rows.map(([text], at) => ({
      line: at + 1,
      text: String(text).slice(0, 4000),
      why: 'it does not fit the line format, or a value is not of its type',
    })),
  };
}

/** Where the last record of some lines begins, in characters. */
async function lastStart(writer: Staging, text: string, first: string): Promise<number | null> {
  const tail = text.slice(-262_144);
  const lines = tail.split('\n');
  await writeLines(
    writer,
    'tail',
    lines.slice(0, -1).map((line) => line || ' '),
  );
  const [row = []] = await writer.ask(
    `SELECT max(n) FROM (SELECT ${lineColumn}, row_number() OVER () AS n FROM (${linesSql(writer.place('tail'))})) WHERE regexp_matches(${lineColumn}, ${literalText(re2Pattern(first))})`,
  );
  if (row[0] === null || row[0] === undefined) return null;
  const before = lines.slice(0, Number(row[0]) - 1);
  return text.length - tail.length + before.reduce((sum, line) => sum + line.length + 1, 0);
}
