import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import path from 'node:path';
import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import { checkedText, comma, identifier, join, ordinal, sql } from '#core/sql/fragment.ts';
import type { Cell } from '#core/value/field/value.ts';
import { cellsOf } from './cells.ts';
import { duckdb } from './duckdb.ts';
import type { KeptField } from './kept-field.ts';
import { filesText, literal, literalText, textOf } from './quote.ts';
import { placeSegment, placeSegments, type WrittenFile, type WrittenSegment } from './segment.ts';
import { Staging } from './staging.ts';

/** Records whose moment or date is before another (ISO 8601) are let go. */
export interface Forget {
  readonly field: string;
  readonly before: string;
}

/** Bytes: a segment goes into the database and comes out of it in one piece. */
const largestSegment = 96_000_000;
/** A segment holds at most this many records, so that one changed record never means writing everything again. */
export const recordsPerSegment = 1_000_000;

const records = identifier('records');

/** Makes typed records of those that were staged, and writes them as Parquet segments. */
export class SegmentWriter extends Staging {
  private isTable = false;

  /** `into` is the folder in which segments end up; memory as in `400MB`. */
  static async open(into: string, columns: readonly string[] = [], memory = '400MB'): Promise<SegmentWriter> {
    const folder = path.join(into, `writing-${process.pid}-${randomUUID()}`);
    mkdirSync(folder, { recursive: true });
    const { DuckDBInstance } = await duckdb();
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
    const writer = new SegmentWriter(instance, connection, folder);
    if (columns.length > 0) await writer.start(columns);
    return writer;
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
    this.isTable = key !== undefined || forget !== undefined;
    await this.drop(records);
    await this.run(
      sql`CREATE ${this.isTable ? sql`TABLE` : sql`VIEW`} ${records} AS ${this.typed(fields, strictly)}`,
    );
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
    return placeSegments(await this.files(), into);
  }

  /** Writes them, and asks something of the files while the names of the segments are worked out. */
  async writeAndAsk<T>(
    into: string,
    ask: (files: readonly WrittenFile[]) => Promise<T>,
  ): Promise<{ segments: WrittenSegment[]; answer: T }> {
    const files = await this.files();
    const asking = ask(files);
    const placing = placeSegments(files, into, asking);
    // Both must have ended before anything is closed, whatever happens to either.
    await Promise.allSettled([asking, placing]);
    return { segments: await placing, answer: await asking };
  }

  private async files(): Promise<WrittenFile[]> {
    if (!this.isTable) return this.divided(await this.copy(textOf(sql`SELECT * FROM ${records}`)));
    const [row] = await this.rows(sql`SELECT count(*) FROM ${records}`);
    const total = Number(row?.[0] ?? 0);
    const files: WrittenFile[] = [];
    for (let from = 0; from < total; from += recordsPerSegment)
      files.push(
        await this.copy(
          textOf(sql`SELECT * FROM ${records} LIMIT ${ordinal(recordsPerSegment)} OFFSET ${ordinal(from)}`),
        ),
      );
    return files;
  }

  /** Writes the typed records as one file, however large. */
  async writeOne(into: string): Promise<WrittenSegment> {
    return placeSegment(await this.copy(textOf(sql`SELECT * FROM ${records}`)), into);
  }

  /** A file that is too large to be stored in one piece, as several; one without records, as none. */
  private async divided(whole: WrittenFile): Promise<WrittenFile[]> {
    if (whole.records === 0) return [];
    const { size } = await stat(whole.file);
    if (size <= largestSegment) return [whole];
    const each = Math.ceil(whole.records / Math.ceil(size / largestSegment));
    const files: WrittenFile[] = [];
    for (let from = 0; from < whole.records; from += each)
      files.push(
        await this.copy(
          `SELECT * FROM read_parquet(${literalText(whole.file)}) WHERE file_row_number >= ${from} AND file_row_number < ${from + each}`,
        ),
      );
    rmSync(whole.file, { force: true });
    return files;
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
    const kept = await this.copy(textOf(sql`SELECT ${join(columns, comma)} FROM ${old} WHERE NOT ${gone}`));
    return [await placeSegment(kept, into)];
  }

  /** Several small segments as one. */
  async merged(files: readonly string[], into: string): Promise<WrittenSegment> {
    return placeSegment(await this.copy(`SELECT * FROM ${filesText(files)}`), into);
  }

  private async copy(query: string): Promise<WrittenFile> {
    const file = this.place(`${randomUUID()}.parquet`);
    const copied = await this.connection.runAndReadAll(
      `COPY (${query}) TO ${literalText(file)} (FORMAT parquet, COMPRESSION zstd, ROW_GROUP_SIZE 122880)`,
    );
    return { file, records: Number(copied.getRows()[0]?.[0] ?? 0) };
  }
}
