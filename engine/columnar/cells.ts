import type { DuckDBType, DuckDBValue } from '@duckdb/node-api';
import { DuckDBTypeId } from '@duckdb/node-api/lib/DuckDBTypeId.js';
import { instantText } from '#core/value/field/instant.ts';
import type { Cell } from '#core/value/field/value.ts';

/** Decimals without the zeros that only their column's scale gives them. */
const trimmed = (text: string): string =>
  text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text;

function cellOf(value: DuckDBValue, type: DuckDBTypeId): Cell {
  if (value === null) return null;
  switch (type) {
    case DuckDBTypeId.TINYINT:
    case DuckDBTypeId.SMALLINT:
    case DuckDBTypeId.INTEGER:
    case DuckDBTypeId.BIGINT:
    case DuckDBTypeId.UTINYINT:
    case DuckDBTypeId.USMALLINT:
    case DuckDBTypeId.UINTEGER:
    case DuckDBTypeId.UBIGINT:
    case DuckDBTypeId.HUGEINT:
    case DuckDBTypeId.UHUGEINT:
      return String(value);
    case DuckDBTypeId.DECIMAL:
      return trimmed(String(value));
    case DuckDBTypeId.FLOAT:
    case DuckDBTypeId.DOUBLE:
      return typeof value === 'number' && Number.isFinite(value) ? value : String(value);
    case DuckDBTypeId.BOOLEAN:
      return value === true;
    case DuckDBTypeId.TIMESTAMP:
      return typeof value === 'object' && 'micros' in value
        ? instantText(value.micros as bigint)
        : String(value);
    default:
      return String(value);
  }
}

/** The rows of an answer as cells, by the types of its columns. */
export function cellsOf(types: readonly DuckDBType[], rows: readonly (readonly DuckDBValue[])[]): Cell[][] {
  const ids = types.map(({ typeId }) => typeId);
  return rows.map((row) => row.map((value, at) => cellOf(value, ids[at] ?? DuckDBTypeId.VARCHAR)));
}
