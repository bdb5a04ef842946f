import type { DuckDBValue } from '@duckdb/node-api';
import { listValue } from '@duckdb/node-api/lib/values/DuckDBListValue.js';
import type { Query } from '#core/sql/compile.ts';

/** The values of a query as the engine takes them. */
export const boundValues = (values: Query['values']): DuckDBValue[] =>
  values.map((value) => (typeof value === 'string' || value === null ? value : listValue([...value])));
