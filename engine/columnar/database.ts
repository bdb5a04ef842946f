import type { DuckDBConnection, DuckDBInstance, DuckDBMaterializedResult } from '@duckdb/node-api';
import type { Query } from '#core/sql/compile.ts';
import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import { boundValues } from './bound.ts';
import { duckdb } from './duckdb.ts';
import type { KeptField } from './kept-field.ts';
import { filesText, literalText, nameText } from './quote.ts';
import { quotientMacros } from './quotient.ts';

export interface ColumnarSettings {
  /** The only folder that the engine may read: the segment cache. */
  readonly folder: string;
  /** What the engine may hold in memory, such as `800MB`; more is spilled into the folder. */
  readonly memory?: string;
  readonly threads?: number;
}

/** One engine: an in-memory DuckDB that reads the files of one folder and nothing else, with its settings locked. */
export class ColumnarDatabase {
  /** What the connection that copies does now: it does one thing after the other. */
  private copied: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly instance: DuckDBInstance,
    private readonly copying: DuckDBConnection,
  ) {}

  static async open({ folder, memory = '800MB', threads = 2 }: ColumnarSettings): Promise<ColumnarDatabase> {
    const { DuckDBInstance } = await duckdb();
    const instance = await DuckDBInstance.create(':memory:', {
      threads: String(threads),
      memory_limit: memory,
      temp_directory: `${folder}/spill`,
      autoinstall_known_extensions: 'false',
      autoload_known_extensions: 'false',
    });
    const connection = await instance.connect();
    for (const macro of quotientMacros) await connection.run(macro);
    await connection.run("SET TimeZone = 'UTC'");
    // Segments never change, so what their footers say is read once.
    await connection.run('SET parquet_metadata_cache = true');
    await connection.run('CREATE SCHEMA kept');
    const copying = await instance.connect();
    // Copying records takes two thirds of the time where their order does not have to be kept.
    await copying.run('SET SESSION preserve_insertion_order = false');
    await connection.run(`SET allowed_directories = [${literalText(folder)}]`);
    await connection.run('SET enable_external_access = false');
    await connection.run('SET lock_configuration = true');
    connection.closeSync();
    return new ColumnarDatabase(instance, copying);
  }

  /** Makes files readable as one table under a name; without files it is a table without records. */
  async define(name: string, files: readonly string[], fields: readonly KeptField[]): Promise<void> {
    const connection = await this.instance.connect();
    try {
      const empty = fields.map(
        ({ name: of, type, scale, digits }) =>
          `CAST(NULL AS ${columnType(type, scale, digits)}) AS ${nameText(of)}`,
      );
      const from =
        files.length > 0 ? `SELECT * FROM ${filesText(files)}` : `SELECT ${empty.join(', ')} WHERE FALSE`;
      await connection.run(`CREATE OR REPLACE VIEW kept.${nameText(name)} AS ${from}`);
    } finally {
      connection.closeSync();
    }
  }

  async forget(name: string): Promise<void> {
    const connection = await this.instance.connect();
    await connection.run(`DROP VIEW IF EXISTS kept.${nameText(name)}`);
    connection.closeSync();
  }

  /** Copies the records of a query into a table in memory, and says how many. Their order is not kept. */
  async copyToTable(name: string, { text, values }: Query): Promise<number> {
    const result = await this.copy(`CREATE OR REPLACE TABLE kept.${nameText(name)} AS ${text}`, values);
    const [[count = 0] = []] = await result.getRows();
    return Number(count);
  }

  async dropTable(name: string): Promise<void> {
    await this.copy(`DROP TABLE IF EXISTS kept.${nameText(name)}`);
  }

  private copy(text: string, values: Query['values'] = []): Promise<DuckDBMaterializedResult> {
    const run = this.copied.then(() => this.copying.run(text, boundValues(values)));
    this.copied = run.catch(() => undefined);
    return run;
  }

  connect(): Promise<DuckDBConnection> {
    return this.instance.connect();
  }

  /** Ends the engine once it has copied and dropped what it was told to: to be closed meanwhile would end the process. */
  async close(): Promise<void> {
    await this.copied;
    this.copying.closeSync();
    this.instance.closeSync();
  }
}
