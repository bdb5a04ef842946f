import type { Column, Request } from './schema.ts';

type OneTable = Extract<Request, { kind: 'table' }>;

/** The request for records of one table of a database; null where it is another. */
export const oneTable = (request: Request): OneTable | null => (request.kind === 'table' ? request : null);

/** Asks for columns of a table, and nothing else. */
export const columnsOfTable = (schema: string, table: string, columns: Column[]): OneTable => ({
  kind: 'table',
  schema,
  table,
  columns,
  lookUps: [],
});
