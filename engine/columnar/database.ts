import { type DuckDBConnection, DuckDBInstance } from '@duckdb/node-api';
import { columnType } from '#core/sql/duckdb.ts';
import { filesText, literalText, nameText } from './quote.ts';
import type { KeptField } from './writer.ts';

export interface ColumnarSettings {
  /** The only folder that the engine may read: the segment cache. */
  readonly folder: string;
  /** What the engine may hold in memory, such as `800MB`; more is spilled into the folder. */
  readonly memory?: string;
  readonly threads?: number;
}

/**
 * `exact_quotient(a, b)`: a ÷ b rounded to 12 decimals, half away from zero, as DECIMAL(38, 12); blank for b = 0. Whole
 * arithmetic on the unscaled numbers, since DuckDB's own division of decimals goes through a float. A quotient that needs
 * more than 38 digits is an error, never a rounded one.
 */
const macros = [
  // A decimal as text without the zeros that only its column's scale gives it.
  `CREATE MACRO plain_decimal(t) AS CASE WHEN contains(t, '.') THEN rtrim(rtrim(t, '0'), '.') ELSE t END`,
  `CREATE MACRO decimals_of(t) AS CASE WHEN contains(t, '.') THEN length(t) - position('.' IN t) ELSE 0 END`,
  `CREATE MACRO unscaled_of(t) AS CAST(replace(t, '.', '') AS HUGEINT)`,
  `CREATE MACRO power_of_ten(n) AS CAST('1' || repeat('0', CAST(n AS BIGINT)) AS HUGEINT)`,
  `CREATE MACRO divided(a, b) AS sign(a) * sign(b) * ((abs(a) // abs(b)) * 1000000000000::HUGEINT
     + ((abs(a) % abs(b)) * 2000000000000::HUGEINT + abs(b)) // (2 * abs(b)))`,
  `CREATE MACRO digits_of(n) AS
     lpad(CAST(abs(n) AS VARCHAR), CAST(greatest(13, length(CAST(abs(n) AS VARCHAR))) AS INTEGER), '0')`,
  `CREATE MACRO with_12_decimals(n, t) AS
     CAST(CASE WHEN n < 0 THEN '-' ELSE '' END || t[:-13] || '.' || t[-12:] AS DECIMAL(38, 12))`,
  // A macro writes its arguments out wherever they stand; the lambdas are there so that each is written and bound once.
  // Their names end in an underscore lest they be taken for a table's.
  // Of whole numbers of 64 bits: their quotient in units of the twelfth decimal fits 128 bits, and no text is made of it.
  `CREATE MACRO whole_quotient(a, b) AS CASE WHEN b <> 0 THEN
     CAST(sign(a) * sign(b) * ((abs(CAST(a AS HUGEINT)) * 2000000000000::HUGEINT + abs(CAST(b AS HUGEINT))) // (2 * abs(CAST(b AS HUGEINT)))) AS DECIMAL(38, 0)) * 0.000000000001::DECIMAL(12, 12) END`,
  `CREATE MACRO exact_quotient(a, b) AS list_transform(list_transform(list_transform(
     [{a: CAST(a AS VARCHAR), b: CAST(b AS VARCHAR)}],
     lambda texts_: {
       a: unscaled_of(texts_.a) * power_of_ten(greatest(0, decimals_of(texts_.b) - decimals_of(texts_.a))),
       b: unscaled_of(texts_.b) * power_of_ten(greatest(0, decimals_of(texts_.a) - decimals_of(texts_.b)))}),
     lambda whole_: CASE WHEN whole_.b = 0 THEN NULL ELSE divided(whole_.a, whole_.b) END),
     lambda quotient_: with_12_decimals(quotient_, digits_of(quotient_)))[1]`,
];

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
    for (const macro of macros) await connection.run(macro);
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
