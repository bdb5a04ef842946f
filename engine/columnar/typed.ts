import type { FieldType } from '#core/field/types.ts';
import { ordinal, type Sql, sql } from '#core/sql/fragment.ts';

/** A text column read as a type. Empty text is blank. */
export function typed(column: Sql, type: FieldType, scale: number): Sql {
  const value = sql`nullif(trim(${column}), '')`;
  switch (type) {
    case 'text':
    case 'nested':
      return sql`nullif(${column}, '')`;
    case 'integer':
      return sql`CAST(${value} AS BIGINT)`;
    case 'decimal':
      return sql`CAST(${value} AS DECIMAL(38, ${ordinal(scale)}))`;
    case 'float':
      return sql`CAST(${value} AS DOUBLE)`;
    case 'boolean':
      return sql`CASE lower(${value}) WHEN 'yes' THEN TRUE WHEN 'no' THEN FALSE ELSE CAST(${value} AS BOOLEAN) END`;
    case 'date':
      return sql`CAST(${value} AS DATE)`;
    case 'instant':
      return sql`CAST(CAST(${value} AS TIMESTAMPTZ) AS TIMESTAMP)`;
  }
}
