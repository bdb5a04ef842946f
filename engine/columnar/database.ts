import { type DuckDBConnection, DuckDBInstance } from '@duckdb/node-api';
import { columnType } from '#core/sql/dialect/columnar/dialect.ts';
import { filesText, literalText, nameText } from './quote.ts';
import { quotientMacros } from './quotient.ts';
import type { KeptField } from './writer.ts';

export interface ColumnarSettings {
  /** The only folder that the engine may read: the segment cache. */
  readonly folder: string;
  /** What the engine may hold in memory, such as `800MB`; more is spilled into the folder. */
  readonly memory?: string;
  readonly threads?: number;
}

/** One engine: an in-memory DuckDB that reads the files of one folder and nothing else, with its settings locked. */
export class ColumnarDatabase {
  private constructor(private readonly instance: DuckDBInstance) {}

  static async open({ folder, memory = '800MB', threads = 2 }: ColumnarSettings): Promise<ColumnarDatabase> {
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
    await connection.run(`SET allowed_directories = [${literalText(folder)}]`);
    await connection.run('SET enable_external_access = false');
    await connection.run('SET lock_configuration = true');
    connection.closeSync();
    return new ColumnarDatabase(instance);
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

  connect(): Promise<DuckDBConnection> {
    return this.instance.connect();
  }

  close(): void {
    this.instance.closeSync();
  }
}
