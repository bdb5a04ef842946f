import { rmSync } from 'node:fs';
import path from 'node:path';
import type { DuckDBConnection, DuckDBInstance } from '@duckdb/node-api';
import type { Form } from '#core/dataset/kept/forms.ts';
import type { Looks } from '#core/dataset/kept/guess.ts';
import { checkedText, comma, identifier, join, ordinal, type Sql, sql } from '#core/sql/fragment.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { diskProblem } from '#core/value/problem/problem.ts';
import { copiedQuery } from './copied.ts';
import { duckdb } from './duckdb.ts';
import { type FoundForm, formCountsSql, formedSql, formsOf } from './forms.ts';
import { decimalShape, type KeptField, type WriterField } from './kept-field.ts';
import type { OwnType } from './line-shape.ts';
import { looksOf, looksSql, wideLooksOf, wideLooksSql } from './looks.ts';
import { textOf } from './quote.ts';
import { typedSql } from './typed.ts';
import { uniqueAmong } from './unique.ts';

const rowsPerChunk = 2048;
/** Columns that are looked at beside each other. */
const mostAtOnce = 40;

const staged = identifier('staged');
/** What was staged, as it stands; the staged records are the same with the texts of some columns read by their form. */
const given = identifier('given');
const sample = identifier('sample');

/** What a file has in columns that need not be read as texts first, and a query of ours for the records with some of those as such. */
export interface OwnTypes {
  readonly types: ReadonlyMap<string, OwnType>;
  readonly query: (columns: ReadonlySet<string>) => string;
}

/**
 * Takes records in as texts, and tells what they look like over all of them. It works in a folder of its own, on disk where they do
 * not fit into memory.
 */
export class Staging {
  private columns: readonly string[] = [];
  /** How many of the staged records are in the table of the first. */
  private sampled: number | null = null;
  /** The types that the file of the staged records itself has. */
  private own: OwnTypes | null = null;
  /** How the staged records are made of what was given, and the columns that are not as they were given. */
  private made: Sql = sql`*`;
  private formed: ReadonlySet<string> = new Set();

  protected constructor(
    private readonly instance: DuckDBInstance,
    protected readonly connection: DuckDBConnection,
    private readonly folder: string,
  ) {}

  /** Makes a place for records that are added. */
  protected async start(columns: readonly string[]): Promise<void> {
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

  /** Stages the records of a file as PostgreSQL copies them out, a line each. No line is longer than this many bytes. */
  stageCopied(file: string, longest: number): Promise<void> {
    return this.stage(copiedQuery(file, this.columns, longest));
  }

  /** DuckDB wants to be told whether it is a table or a view that goes. */
  protected async drop(name: Sql): Promise<void> {
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

  protected run(query: Sql): Promise<unknown> {
    return this.connection.run(textOf(query));
  }

  protected async rows(query: Sql): Promise<unknown[][]> {
    return (await this.connection.runAndReadAll(textOf(query))).getRows();
  }

  /**
   * Adds records, each as texts in the order of the columns; null is blank. Throws a {@link ProblemError} when there is no
   * room for them, lest those who fetch take it for a fault of the source.
   */
  async add(records: readonly (readonly (string | null)[])[]): Promise<void> {
    const { DuckDBDataChunk, VARCHAR } = await duckdb();
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

  /** The staged records as a query for typed ones; where `strictly`, a text that cannot be read as its field's type ends it. */
  protected typed(fields: readonly KeptField[], strictly: boolean): Sql {
    const own = new Set(fields.filter((field) => this.isOwn(field)).map(({ name }) => name));
    return typedSql(
      fields.map((field) => ({ ...field, strictly, isRead: own.has(field.name) })),
      this.withOwn(own),
    );
  }

  /** Those of some columns that are filled and different in every record. */
  unique(fields: readonly WriterField[]): Promise<Set<string>> {
    return uniqueAmong(this, fields, textOf(staged), () => true);
  }

  close(): void {
    this.connection.closeSync();
    this.instance.closeSync();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
