import type { Column, Request } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';

/** The fields that a table request yields: its own columns, then those of its look-ups, each with its origin. */
export function fieldsOfTable(request: Extract<Request, { kind: 'table' }>): Field[] {
  const field =
    (schema: string, table: string) =>
    (column: Column): Field => ({
      name: column.name,
      type: column.type,
      origin: `${schema}.${table}.${column.column}`,
    });
  return [
    ...request.columns.map(field(request.schema, request.table)),
    ...request.lookUps.flatMap((lookUp) => lookUp.take.map(field(lookUp.schema, lookUp.table))),
  ];
}
