import { type DuckDBValue, listValue } from '@duckdb/node-api';
import type { Query } from '#core/sql/compile.ts';

/** The values of a query as the engine takes them. */
export const boundValues = (values: Query['values']): DuckDBValue[] =>
  values.map((value) => (typeof value === 'string' || value === null ? value : listValue([...value])));
