import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { type DuckDBConnection, DuckDBDataChunk, DuckDBInstance, VARCHAR } from '@duckdb/node-api';
import type { FieldType } from '#core/field/types.ts';
import type { Looks } from '#core/kept/guess.ts';
import { comma, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import { filesText, literal, literalText, textOf } from './quote.ts';
import { named, type WrittenSegment } from './segment.ts';
import { typed } from './typed.ts';

export interface WriterField {
  readonly name: string;
  readonly type: FieldType;
}

/** A field as segments hold it; decimals have one scale throughout. */
export interface KeptField extends WriterField {
  readonly scale?: number;
}

const rowsPerChunk = 2048;
/** A segment holds at most this many records, so that one changed record never means writing everything again. */
export const recordsPerSegment = 1_000_000;

const staged = identifier('staged');
const records = identifier('records');

const integerPattern = sql`'[+-]?[0-9]+'`;
const decimalPattern = sql`'[+-]?([0-9]+([.][0-9]*)?|[.][0-9]+)'`;
const datePattern = sql`'[0-9]{4}-[0-9]{2}-[0-9]{2}'`;
const instantPattern = sql`'[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}([.,][0-9]+)?)?(Z|[+-][0-9]{2}(:?[0-9]{2})?)'`;

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
  ) {}

  /** `into` is the folder in which segments end up; memory as in `400MB`. */
  static async open(into: string, columns: readonly string[] = [], memory = '400MB'): Promise<SegmentWriter> {
    const folder = path.join(into, `writing-${randomUUID()}`);
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
    const writer = new SegmentWriter(instance, connection, folder, columns);
    if (columns.length > 0) await writer.start(columns);
    return writer;
  }

  private async start(columns: readonly string[]): Promise<void> {
    this.columns = columns;
    const typed = columns.map((name) => sql`${identifier(name)} VARCHAR`);
    await this.run(sql`CREATE OR REPLACE TABLE ${staged} (${join(typed, comma)})`);
  }

  /** Stages what a query of ours yields, which is all texts. */
  async stage(query: string): Promise<void> {
    await this.connection.run(`CREATE OR REPLACE TABLE ${textOf(staged)} AS ${query}`);
    const described = await this.ask(`DESCRIBE ${textOf(staged)}`);
    this.columns = described.map(([column]) => String(column));
  }

  /** The rows of a query of ours about a file. */
  async ask(query: string): Promise<unknown[][]> {
    return (await this.connection.runAndReadAll(query)).getRows();
  }

  get names(): readonly string[] {
    return this.columns;
  }

  /** The first staged records. */
  async first(count: number): Promise<(string | null)[][]> {
    return (await this.rows(sql`SELECT * FROM ${staged} LIMIT ${ordinal(count)}`)) as (string | null)[][];
  }

  /** Texts of a column that cannot be read as a type: how many, and some of them. */
  async misfits(name: string, type: FieldType, most = 5): Promise<{ count: number; examples: string[] }> {
    const misfit = sql`nullif(trim(${identifier(name)}), '') IS NOT NULL AND TRY(${typed(identifier(name), type, 12)}) IS NULL`;
    const [counted] = await this.rows(sql`SELECT count(*) FROM ${staged} WHERE ${misfit}`);
    const examples = await this.rows(
      sql`SELECT DISTINCT ${identifier(name)} FROM ${staged} WHERE ${misfit} LIMIT ${ordinal(most)}`,
    );
    return { count: Number(counted?.[0] ?? 0), examples: examples.map(([example]) => String(example)) };
  }

  private run(query: Sql): Promise<unknown> {
    return this.connection.run(textOf(query));
  }

  private async rows(query: Sql): Promise<unknown[][]> {
    return (await this.connection.runAndReadAll(textOf(query))).getRows();
  }

  /** Adds records, each as texts in the order of the columns; null is blank. */
  async add(records: readonly (readonly (string | null)[])[]): Promise<void> {
    const appender = await this.connection.createAppender('staged');
    const types = this.columns.map(() => VARCHAR);
    for (let from = 0; from < records.length; from += rowsPerChunk) {
      const chunk = DuckDBDataChunk.create(types);
      chunk.setRows(records.slice(from, from + rowsPerChunk) as unknown as string[][]);
      appender.appendDataChunk(chunk);
    }
    appender.closeSync();
  }

  async count(): Promise<number> {
    const [row] = await this.rows(sql`SELECT count(*) FROM ${staged}`);
    return Number(row?.[0] ?? 0);
  }

  /** What the texts of each column look like, over all records that were added. */
  async looks(): Promise<Map<string, Looks>> {
    const found = new Map<string, Looks>();
    for (const name of this.columns) {
      const value = sql`nullif(trim(${identifier(name)}), '')`;
      const like = (pattern: Sql): Sql => sql`regexp_full_match(v, ${pattern})`;
      const counted = (condition: Sql): Sql => sql`count(*) FILTER (WHERE ${condition})`;
      const isDecimal = like(decimalPattern);
      const [row = []] =
        await this.rows(sql`SELECT count(v), ${counted(sql`${like(integerPattern)} AND TRY_CAST(v AS BIGINT) IS NOT NULL`)}, ${counted(isDecimal)},
        ${counted(sql`TRY_CAST(v AS DOUBLE) IS NOT NULL AND ${like(sql`'[-+0-9.eE]+'`)}`)},
        ${counted(sql`lower(v) IN ('true', 'false', 'yes', 'no')`)},
        ${counted(sql`${like(datePattern)} AND TRY_CAST(v AS DATE) IS NOT NULL`)},
        ${counted(sql`${like(instantPattern)} AND TRY_CAST(v AS TIMESTAMPTZ) IS NOT NULL`)},
        ${counted(sql`(starts_with(v, '{') OR starts_with(v, '[')) AND json_valid(v)`)},
        ${counted(like(sql`'[+-]?0[0-9]+([.][0-9]*)?'`))},
        coalesce(max(length(regexp_extract(v, '^[+-]?([0-9]*)', 1))) FILTER (WHERE ${isDecimal}), 0),
        coalesce(max(length(regexp_extract(v, '[.]([0-9]*)$', 1))) FILTER (WHERE ${isDecimal}), 0)
        FROM (SELECT ${value} AS v FROM ${staged})`);
      const [
        filled = 0,
        integers = 0,
        decimals = 0,
        floats = 0,
        booleans = 0,
        dates = 0,
        instants = 0,
        nested = 0,
        padded = 0,
        wholeDigits = 0,
        decimalDigits = 0,
      ] = row.map(Number);
      found.set(name, {
        filled,
        integers,
        decimals,
        floats,
        booleans,
        dates,
        instants,
        nested,
        padded,
        wholeDigits,
        decimalDigits,
      });
    }
    return found;
  }

  /** The fields with the scale that keeps every decimal of theirs, never less than the scale there was. */
  async scaled(fields: readonly WriterField[], before: readonly KeptField[] = []): Promise<KeptField[]> {
    const decimals = fields.filter(({ type }) => type === 'decimal');
    const most = decimals.map(
      ({ name }) =>
        sql`coalesce(max(length(rtrim(regexp_extract(${identifier(name)}, '[.]([0-9]*)$', 1), '0'))), 0)`,
    );
    const [row = []] =
      decimals.length > 0 ? await this.rows(sql`SELECT ${join(most, comma)} FROM ${staged}`) : [];
    return fields.map(({ name, type }) => {
      const at = decimals.findIndex((each) => each.name === name);
      if (at < 0) return { name, type };
      const known = before.find((each) => each.name === name)?.scale ?? 0;
      return { name, type, scale: Math.min(38, Math.max(known, Number(row[at] ?? 0))) };
    });
  }

  /**
   * Makes typed records of the texts, in the order in which they came. With a key the last record of each key stays.
   * Throws in DuckDB's words where a text cannot be read as its field's type.
   */
  async type(fields: readonly KeptField[], key?: string): Promise<void> {
    const columns = fields.map(
      ({ name, type, scale }) => sql`${typed(identifier(name), type, scale ?? 0)} AS ${identifier(name)}`,
    );
    await this.run(
      sql`CREATE OR REPLACE TABLE ${records} AS SELECT ${join(columns, comma)} FROM ${staged} ORDER BY rowid`,
    );
    if (key === undefined) return;
    const by = identifier(key);
    await this.run(
      sql`DELETE FROM ${records} WHERE ${by} IS NOT NULL AND rowid NOT IN (SELECT max(rowid) FROM ${records} GROUP BY ${by})`,
    );
  }

  /** Lets typed records go whose field is before a moment (ISO 8601, or a date). */
  async forget(field: string, before: string): Promise<void> {
    await this.connection.run(
      `DELETE FROM ${textOf(records)} WHERE ${textOf(identifier(field))} < CAST($1 AS TIMESTAMP)`,
      [before],
    );
  }

  /** Writes the typed records as segments. */
  async write(into: string): Promise<WrittenSegment[]> {
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

  /**
   * A segment there was before, without the records whose key is among the typed ones and those to be forgotten, in the
   * fields said. Null when nothing of it has to change; an empty list when nothing of it stays.
   */
  async rewritten(
    file: string,
    fields: readonly KeptField[],
    change: {
      key?: string | undefined;
      forget?: { field: string; before: string } | undefined;
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
    const columns = fields.map(({ name, type, scale }) =>
      type === 'decimal'
        ? sql`CAST(o.${identifier(name)} AS DECIMAL(38, ${ordinal(scale ?? 0)})) AS ${identifier(name)}`
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
    return named(file, into, Number(reader.getRows()[0]?.[0] ?? 0));
  }

  /** The least and greatest instant of each field of instants among the typed records, as ISO 8601. */
  async spans(fields: readonly KeptField[]): Promise<Record<string, { least: string; greatest: string }>> {
    const found: Record<string, { least: string; greatest: string }> = {};
    for (const { name } of fields.filter((field) => field.type === 'instant')) {
      const iso = (at: Sql): Sql => sql`strftime(${at}, '%Y-%m-%dT%H:%M:%S.%fZ')`;
      const [row] = await this.rows(
        sql`SELECT ${iso(sql`min(${identifier(name)})`)}, ${iso(sql`max(${identifier(name)})`)} FROM ${records}`,
      );
      if (typeof row?.[0] === 'string' && typeof row[1] === 'string')
        found[name] = { least: row[0], greatest: row[1] };
    }
    return found;
  }

  close(): void {
    this.connection.closeSync();
    this.instance.closeSync();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
