import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { type DuckDBConnection, DuckDBDataChunk, DuckDBInstance, VARCHAR } from '@duckdb/node-api';
import type { Form } from '#core/dataset/kept/forms.ts';
import type { Looks } from '#core/dataset/kept/guess.ts';
import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import { checkedText, comma, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Cell } from '#core/value/field/value.ts';
import { diskProblem } from '#core/value/problem/problem.ts';
import { cellsOf } from './cells.ts';
import { type FoundForm, formCountsSql, formedSql, formsOf } from './forms.ts';
import type { OwnType } from './line-shape.ts';
import { looksOf, looksSql, wideLooksOf, wideLooksSql } from './looks.ts';
import { filesText, literal, literalText, textOf } from './quote.ts';
import { placeSegment, type WrittenSegment } from './segment.ts';
import { typedSql } from './typed.ts';

export interface WriterField {
  readonly name: string;
  readonly type: FieldType;
}

/** A field as segments hold it; decimals have one scale and as many digits throughout: 18 where that is enough, else 38. */
export interface KeptField extends WriterField {
  readonly scale?: number;
  readonly digits?: number;
}

/** Records whose moment or date is before another (ISO 8601) are let go. */
export interface Forget {
  readonly field: string;
  readonly before: string;
}

/** Bytes: a segment goes into the database and comes out of it in one piece. */
const largestSegment = 96_000_000;
const rowsPerChunk = 2048;
/** Bytes of a line that DuckDB reads without being told. */
const usualLine = 2_000_000;
/** Columns that are looked at beside each other. */
const mostAtOnce = 40;
/** A segment holds at most this many records, so that one changed record never means writing everything again. */
export const recordsPerSegment = 1_000_000;

const staged = identifier('staged');
/** What was staged, as it stands; the staged records are the same with the texts of some columns read by their form. */
const given = identifier('given');
const sample = identifier('sample');
const records = identifier('records');

/** The digits and scale of a decimal with this many before and after the point. DuckDB is far quicker with 18 than with 38. */
export function decimalShape(
  whole: number,
  part: number,
  before?: KeptField,
): { scale: number; digits: number } {
  const scale = Math.min(38, Math.max(before?.scale ?? 0, part));
  const isShort = whole + scale <= 18 && (before === undefined || before.digits === 18);
  return { scale, digits: isShort ? 18 : 38 };
}

/** What a file has in columns that need not be read as texts first, and a query of ours for the records with some of those as such. */
export interface OwnTypes {
  readonly types: ReadonlyMap<string, OwnType>;
  readonly query: (columns: ReadonlySet<string>) => string;
}

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
 * Takes records in as texts, tells what they look like over all of them, and writes them as typed Parquet segments. It
 * works in a folder of its own, on disk where they do not fit into memory.
 */
export class SegmentWriter {
  private constructor(
    private readonly instance: DuckDBInstance,
    private readonly connection: DuckDBConnection,
    private readonly folder: string,
    private columns: readonly string[],
    private isTable = false,
    /** How many of the staged records are in the table of the first. */
    private sampled: number | null = null,
    /** The types that the file of the staged records itself has. */
    private own: OwnTypes | null = null,
    /** How the staged records are made of what was given, and the columns that are not as they were given. */
    private made: Sql = sql`*`,
    private formed: ReadonlySet<string> = new Set(),
  ) {}

  /** `into` is the folder in which segments end up; memory as in `400MB`. */
  static async open(into: string, columns: readonly string[] = [], memory = '400MB'): Promise<SegmentWriter> {
    const folder = path.join(into, `writing-${process.pid}-${randomUUID()}`);
    mkdirSync(folder, { recursive: true });
    const instance = await DuckDBInstance.create(path.join(folder, 'staged.db'), {
      threads: '2',
      memory_limit: memory,
      temp_directory: path.join(folder, 'spill'),
      autoinstall_known_extensions: 'false',
      autoload_known_extensions: 'false',
      preserve_insertion_order: 'true',
    });
    const connection = await instance.connect();
    await connection.run("SET TimeZone = 'UTC'");
    // A condition on what was worked out of a text would be worked out of the text a second time, nearer to the file.
    await connection.run("SET disabled_optimizers = 'filter_pushdown'");
    const writer = new SegmentWriter(instance, connection, folder, columns);
    if (columns.length > 0) await writer.start(columns);
    return writer;
  }

  private async start(columns: readonly string[]): Promise<void> {
    this.columns = columns;
    const typed = columns.map((name) => sql`${identifier(name)} VARCHAR`);
    await this.run(sql`CREATE OR REPLACE TABLE ${staged} (${join(typed, comma)})`);
  }

  /** Stages what a query of ours yields, which is all texts. It is run each time the records are read. */
  async stage(query: string, own?: OwnTypes): Promise<void> {
    await this.drop(staged);
    await this.drop(given);
    this.sampled = null;
    await this.connection.run(`CREATE VIEW ${textOf(given)} AS ${query}`);
    this.own = own ?? null;
    this.made = sql`*`;
    this.formed = new Set();
    await this.run(sql`CREATE VIEW ${staged} AS SELECT ${this.made} FROM ${given}`);
    const described = await this.ask(`DESCRIBE ${textOf(staged)}`);
    this.columns = described.map(([column]) => String(column));
  }

  /**
   * Stages the records of a file as PostgreSQL copies them out (COPY, format text): a line each, the writer's columns between tabs,
   * `\N` for blanks. No line is longer than this many bytes.
   */
  stageCopied(file: string, longest: number): Promise<void> {
    const types = this.columns.map((name) => `${literalText(name)}: 'VARCHAR'`).join(', ');
    const columns = this.columns.map(
      (name) => `${copiedText(textOf(identifier(name)))} AS ${textOf(identifier(name))}`,
    );
    const size =
      longest < usualLine ? '' : `, max_line_size = ${longest + 1}, buffer_size = ${2 * (longest + 1)}`;
    return this.stage(
      `SELECT ${columns.join(', ')} FROM read_csv(${literalText(file)}, auto_detect = false, header = false, columns = {${types}}, delim = '\\t', quote = '',
        escape = '', new_line = '\\n', nullstr = '\\N'${size})`,
    );
  }

  /** DuckDB wants to be told whether it is a table or a view that goes. */
  private async drop(name: Sql): Promise<void> {
    for (const kind of ['VIEW', 'TABLE'])
      await this.connection.run(`DROP ${kind} IF EXISTS ${textOf(name)}`).catch(() => undefined);
  }

  /** The rows of a query of ours about a file. */
  async ask(query: string): Promise<unknown[][]> {
    return (await this.connection.runAndReadAll(query)).getRows();
  }

  /** The rows of a query of ours about a file, beside whatever else is going on. It is to be awaited before the end. */
  async askBeside(query: string): Promise<unknown[][]> {
    const beside = await this.instance.connect();
    try {
      return (await beside.runAndReadAll(query)).getRows();
    } finally {
      beside.closeSync();
    }
  }

  /** Ends what is going on with an error. */
  interrupt(): void {
    this.connection.interrupt();
  }

  /** A file of the writer's own, gone when it is closed. */
  place(name: string): string {
    return path.join(this.folder, name);
  }

  get names(): readonly string[] {
    return this.columns;
  }

  /** The first staged records, read with the first `among` where more are looked at anyway. */
  async first(count: number, among?: number): Promise<(string | null)[][]> {
    const from = await this.fromFirst(among);
    return (await this.rows(sql`SELECT * FROM ${from} LIMIT ${ordinal(count)}`)) as (string | null)[][];
  }

  /** Texts of a column that cannot be read as a type: how many, and some of them. */
  async misfits(name: string, type: FieldType, most = 5): Promise<{ count: number; examples: string[] }> {
    const column = identifier(name);
    const written = 'text as written';
    const filled = sql`(SELECT ${column} AS ${identifier(written)}, ${column} FROM ${staged} WHERE nullif(trim(${column}), '') IS NOT NULL)`;
    const read = typedSql(
      [
        { name: written, type: 'text' },
        { name, type, scale: 12, digits: 38, misfit: 'blank' },
      ],
      filled,
    );
    const misfit = sql`(${read}) WHERE ${column} IS NULL`;
    const [counted] = await this.rows(sql`SELECT count(*) FROM ${misfit}`);
    const examples = await this.rows(
      sql`SELECT DISTINCT ${identifier(written)} FROM ${misfit} LIMIT ${ordinal(most)}`,
    );
    return { count: Number(counted?.[0] ?? 0), examples: examples.map(([example]) => String(example)) };
  }

  private run(query: Sql): Promise<unknown> {
    return this.connection.run(textOf(query));
  }

  private async rows(query: Sql): Promise<unknown[][]> {
    return (await this.connection.runAndReadAll(textOf(query))).getRows();
  }

  /**
   * Adds records, each as texts in the order of the columns; null is blank. Throws a {@link ProblemError} when there is no
   * room for them, lest those who fetch take it for a fault of the source.
   */
  async add(records: readonly (readonly (string | null)[])[]): Promise<void> {
    const appender = await this.connection.createAppender('staged');
    const types = this.columns.map(() => VARCHAR);
    try {
      for (let from = 0; from < records.length; from += rowsPerChunk) {
        const chunk = DuckDBDataChunk.create(types);
        chunk.setRows(records.slice(from, from + rowsPerChunk) as unknown as string[][]);
        appender.appendDataChunk(chunk);
      }
      appender.closeSync();
    } catch (thrown) {
      throw diskProblem(thrown, 'writing records') ?? thrown;
    }
  }

  async count(): Promise<number> {
    const [row] = await this.rows(sql`SELECT count(*) FROM ${staged}`);
    return Number(row?.[0] ?? 0);
  }

  /** What the texts of each column look like, over all records or the first of them; and how many those are. */
  async looks(first?: number): Promise<{ total: number; looks: Map<string, Looks> }> {
    const from = await this.fromFirst(first);
    const { columns } = this;
    // Of few records it takes longer to plan many aggregates than to work them out.
    if (columns.length <= mostAtOnce && first === undefined) {
      const [row = []] = await this.rows(looksSql(columns, from));
      return looksOf(columns, row);
    }
    const [counted] = await this.rows(sql`SELECT count(*) FROM ${from}`);
    return {
      total: Number(counted?.[0] ?? 0),
      looks: wideLooksOf(columns, await this.rows(wideLooksSql(columns, from))),
    };
  }

  /** The forms that all texts of some columns are written in, over all records or the first `first` of them. */
  async forms(columns: readonly string[], first?: number): Promise<Map<string, FoundForm>> {
    if (columns.length === 0) return new Map();
    return formsOf(columns, await this.rows(formCountsSql(columns, await this.fromFirst(first))));
  }

  /** The staged records, or the first `count` of them, which are read from their file once however often they are needed. */
  private async fromFirst(count: number | undefined): Promise<Sql> {
    if (count === undefined) return staged;
    if (this.sampled !== count)
      await this.run(
        sql`CREATE OR REPLACE TEMP TABLE ${sample} AS SELECT * FROM ${staged} LIMIT ${ordinal(count)}`,
      );
    this.sampled = count;
    return sample;
  }

  /** Reads the texts of columns by their forms from here on. Only for what was staged with a query. */
  async form(by: ReadonlyMap<string, Form>): Promise<void> {
    await this.drop(staged);
    this.sampled = null;
    const columns = this.columns.map((name) => {
      const form = by.get(name);
      const column = identifier(name);
      return form ? sql`${formedSql(column, form)} AS ${column}` : column;
    });
    this.made = join(columns, comma);
    this.formed = new Set(by.keys());
    await this.run(sql`CREATE VIEW ${staged} AS SELECT ${this.made} FROM ${given}`);
  }

  /** Whether a field is what the file itself has, to the last digit. */
  private isOwn({ name, type, scale = 0 }: KeptField): boolean {
    const own = this.formed.has(name) ? undefined : this.own?.types.get(name);
    return own?.type === type && (own.type !== 'decimal' || scale >= own.scale);
  }

  /** The staged records with those columns as the file itself has them. */
  private withOwn(columns: ReadonlySet<string>): Sql {
    if (columns.size === 0 || !this.own) return staged;
    return sql`(SELECT ${this.made} FROM (${checkedText([this.own.query(columns)], [])}))`;
  }

  /** The fields with the scale and digits that keep every decimal of theirs, never less than there were. */
  async scaled(fields: readonly WriterField[], before: readonly KeptField[] = []): Promise<KeptField[]> {
    const decimals = fields.filter(({ type }) => type === 'decimal');
    const most = decimals.flatMap(({ name }) => [
      sql`coalesce(max(length(rtrim(regexp_extract(${identifier(name)}, '[.]([0-9]*)$', 1), '0'))), 0)`,
      sql`coalesce(max(length(ltrim(regexp_extract(${identifier(name)}, '^[+-]?([0-9]*)', 1), '0'))), 0)`,
    ]);
    const [row = []] =
      decimals.length > 0 ? await this.rows(sql`SELECT ${join(most, comma)} FROM ${staged}`) : [];
    return fields.map(({ name, type }) => {
      const at = decimals.findIndex((each) => each.name === name);
      if (at < 0) return { name, type };
      const known = before.find((each) => each.name === name);
      return {
        name,
        type,
        ...decimalShape(Number(row[2 * at + 1] ?? 0), Number(row[2 * at] ?? 0), known),
      };
    });
  }

  /**
   * Makes typed records of the texts, in the order in which they came. With a key the last record of each key stays.
   * Throws in DuckDB's words where a text cannot be read as its field's type.
   */
  async type(
    fields: readonly KeptField[],
    {
      key,
      forget,
      strictly = false,
    }: { key?: string | undefined; forget?: Forget | undefined; strictly?: boolean } = {},
  ): Promise<void> {
    const own = new Set(fields.filter((field) => this.isOwn(field)).map(({ name }) => name));
    const query = typedSql(
      fields.map((field) => ({ ...field, strictly, isRead: own.has(field.name) })),
      this.withOwn(own),
    );
    this.isTable = key !== undefined || forget !== undefined;
    await this.drop(records);
    await this.run(sql`CREATE ${this.isTable ? sql`TABLE` : sql`VIEW`} ${records} AS ${query}`);
    if (key !== undefined) {
      const by = identifier(key);
      await this.run(
        sql`DELETE FROM ${records} WHERE ${by} IS NOT NULL AND rowid NOT IN (SELECT max(rowid) FROM ${records} GROUP BY ${by})`,
      );
    }
    if (forget)
      await this.connection.run(
        `DELETE FROM ${textOf(records)} WHERE ${textOf(identifier(forget.field))} < CAST($1 AS TIMESTAMP)`,
        [forget.before],
      );
  }

  /** The first typed records. */
  async typedFirst(count: number): Promise<Cell[][]> {
    const reader = await this.connection.runAndReadAll(
      textOf(sql`SELECT * FROM ${records} LIMIT ${ordinal(count)}`),
    );
    return cellsOf(reader.columnTypes(), reader.getRows());
  }

  /** Writes the typed records as segments, in the order in which they came. Throws where a text is not of its type. */
  async write(into: string): Promise<WrittenSegment[]> {
    if (!this.isTable)
      return this.divided(await this.copy(textOf(sql`SELECT * FROM ${records}`), into), into);
    const [row] = await this.rows(sql`SELECT count(*) FROM ${records}`);
    const total = Number(row?.[0] ?? 0);
    const segments: WrittenSegment[] = [];
    for (let from = 0; from < total; from += recordsPerSegment)
      segments.push(
        await this.copy(
          textOf(sql`SELECT * FROM ${records} LIMIT ${ordinal(recordsPerSegment)} OFFSET ${ordinal(from)}`),
          into,
        ),
      );
    return segments;
  }

  /** Writes the typed records as one file, however large. */
  writeOne(into: string): Promise<WrittenSegment> {
    return this.copy(textOf(sql`SELECT * FROM ${records}`), into);
  }

  /** A segment that is too large to be stored in one piece, as several; one without records, as none. */
  private async divided(whole: WrittenSegment, into: string): Promise<WrittenSegment[]> {
    if (whole.records === 0) return [];
    if (whole.size <= largestSegment) return [whole];
    const each = Math.ceil(whole.records / Math.ceil(whole.size / largestSegment));
    const segments: WrittenSegment[] = [];
    for (let from = 0; from < whole.records; from += each)
      segments.push(
        await this.copy(
          `SELECT * FROM read_parquet(${literalText(whole.file)}) WHERE file_row_number >= ${from} AND file_row_number < ${from + each}`,
          into,
        ),
      );
    rmSync(whole.file, { force: true });
    return segments;
  }

  /**
   * A segment there was before, without the records whose key is among the typed ones and those to be forgotten, in the
   * fields said. Null when nothing of it has to change; an empty list when nothing of it stays.
   */
  async rewritten(
    file: string,
    fields: readonly KeptField[],
    change: {
      key?: string | undefined;
      forget?: Forget | undefined;
      scaled: boolean;
    },
    into: string,
  ): Promise<WrittenSegment[] | null> {
    const old = sql`(SELECT * FROM read_parquet(${literal(file)})) AS o`;
    const goes = [
      ...(change.key === undefined
        ? []
        : [sql`o.${identifier(change.key)} IN (SELECT ${identifier(change.key)} FROM ${records})`]),
      ...(change.forget
        ? [sql`o.${identifier(change.forget.field)} < CAST(${literal(change.forget.before)} AS TIMESTAMP)`]
        : []),
    ];
    const gone = goes.length > 0 ? sql`coalesce(${join(goes, sql` OR `)}, FALSE)` : sql`FALSE`;
    const [row] = await this.rows(sql`SELECT count(*), count(*) FILTER (WHERE ${gone}) FROM ${old}`);
    const [all = 0, out = 0] = (row ?? []).map(Number);
    if (out === 0 && !change.scaled) return null;
    if (out === all) return [];
    const columns = fields.map(({ name, type, scale, digits }) =>
      type === 'decimal'
        ? sql`CAST(o.${identifier(name)} AS ${checkedText([columnType(type, scale, digits)], [])}) AS ${identifier(name)}`
        : sql`o.${identifier(name)}`,
    );
    return [await this.copy(textOf(sql`SELECT ${join(columns, comma)} FROM ${old} WHERE NOT ${gone}`), into)];
  }

  /** Several small segments as one. */
  merged(files: readonly string[], into: string): Promise<WrittenSegment> {
    return this.copy(`SELECT * FROM ${filesText(files)}`, into);
  }

  private async copy(query: string, into: string): Promise<WrittenSegment> {
    const file = path.join(this.folder, `${randomUUID()}.parquet`);
    const said = literalText(file);
    await this.connection.run(
      `COPY (${query}) TO ${said} (FORMAT parquet, COMPRESSION zstd, ROW_GROUP_SIZE 122880)`,
    );
    const reader = await this.connection.runAndReadAll(`SELECT count(*) FROM read_parquet(${said})`);
    return placeSegment(file, into, Number(reader.getRows()[0]?.[0] ?? 0));
  }

  /** The least and greatest instant of each field of instants in segments just written, as ISO 8601. */
  async spans(
    fields: readonly KeptField[],
    segments: readonly WrittenSegment[],
  ): Promise<Record<string, { least: string; greatest: string }>> {
    const instants = fields.filter(({ type }) => type === 'instant');
    if (instants.length === 0 || segments.length === 0) return {};
    const iso = (at: Sql): Sql => sql`strftime(${at}, '%Y-%m-%dT%H:%M:%S.%fZ')`;
    const ends = instants.flatMap(({ name }) => [
      iso(sql`min(${identifier(name)})`),
      iso(sql`max(${identifier(name)})`),
    ]);
    const from = filesText(segments.map(({ file }) => file));
    const [row = []] = await this.ask(`SELECT ${textOf(join(ends, comma))} FROM ${from}`);
    return Object.fromEntries(
      instants.flatMap(({ name }, at) => {
        const [least, greatest] = row.slice(2 * at, 2 * at + 2);
        return typeof least === 'string' && typeof greatest === 'string' ? [[name, { least, greatest }]] : [];
      }),
    );
  }

  /** How many records segments hold, and in how many of them each column is filled. */
  async filled(segments: readonly WrittenSegment[]): Promise<{ total: number; filled: Map<string, number> }> {
    if (segments.length === 0) return { total: 0, filled: new Map(this.columns.map((name) => [name, 0])) };
    const counts = this.columns.map((name) => sql`count(${identifier(name)})`);
    const [row = []] = await this.ask(
      `SELECT count(*), ${textOf(join(counts, comma))} FROM ${filesText(segments.map(({ file }) => file))}`,
    );
    return {
      total: Number(row[0] ?? 0),
      filled: new Map(this.columns.map((name, at) => [name, Number(row[at + 1] ?? 0)])),
    };
  }

  /** Those of some columns that are filled and different in every record: of segments just written, else of what is staged. */
  async unique(
    fields: readonly WriterField[],
    segments: readonly WrittenSegment[] = [],
  ): Promise<Set<string>> {
    if (fields.length === 0) return new Set();
    const isTyped = segments.length > 0;
    const from = isTyped ? filesText(segments.map(({ file }) => file)) : textOf(staged);
    const values = fields.map(({ name, type }) =>
      isTyped && type !== 'text' ? identifier(name) : sql`nullif(trim(${identifier(name)}), '')`,
    );
    // What goes up from record to record repeats nowhere, which is seen in a tenth of the time that telling all apart takes.
    const named = values.map(
      (value, at) => `${textOf(value)} AS v${at}, lag(${textOf(value)}) OVER () AS b${at}`,
    );
    const [steps = []] = await this.ask(
      `SELECT ${values.map((_, at) => `count(*) = count(v${at}), coalesce(bool_and(v${at} > b${at}), true)`).join(', ')}
       FROM (SELECT ${named.join(', ')} FROM ${from})`,
    );
    const isFilled = (at: number): boolean => steps[2 * at] === true;
    const goesUp = (at: number): boolean => steps[2 * at + 1] === true;
    const unsure = values.flatMap((value, at) => (isFilled(at) && !goesUp(at) ? [{ value, at }] : []));
    const [row = []] =
      unsure.length === 0
        ? []
        : await this.ask(
            `SELECT ${unsure.map(({ value }) => `count(*) = count(DISTINCT ${textOf(value)})`).join(', ')} FROM ${from}`,
          );
    const isDistinct = new Set(unsure.filter((_, place) => row[place] === true).map(({ at }) => at));
    return new Set(
      fields.filter((_, at) => isFilled(at) && (goesUp(at) || isDistinct.has(at))).map(({ name }) => name),
    );
  }

  close(): void {
    this.connection.closeSync();
    this.instance.closeSync();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
