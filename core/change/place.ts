import { oneTable } from '#core/dataset/one-table.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { meaningOf } from '#core/value/field/value.ts';

/**
 * Which records a record is one of, so that it is the same wherever it is shown: those of a table, else those of a meaning that is one for
 * all sources, else those of the data set itself.
 */
export function recordPlace(dataSetId: string, { source, request, key, fields }: DataSet): string {
  const table = oneTable(request);
  if (table) return JSON.stringify([source, table.schema, table.table]);
  const field = fields.find(({ name }) => name === key);
  const meaning = field && meaningOf(field);
  return JSON.stringify(meaning !== undefined && !meaning.includes('.') ? [meaning] : [dataSetId]);
}
