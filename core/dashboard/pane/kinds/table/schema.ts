import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { Format } from '#core/value/field/format.ts';
import { Order, recordsShape, sharedShape } from '../../shared.ts';

const TableColumn = z.object({
  field: FieldName,
  label: z.string().max(500).optional(),
  /** Pixels. */
  width: z.int().min(40).max(1200).optional(),
  hidden: z.boolean().optional(),
  format: Format.optional(),
});
export type TableColumn = z.infer<typeof TableColumn>;

export const Table = z.object({
  kind: z.literal('table'),
  ...sharedShape,
  ...recordsShape,
  columns: z.array(TableColumn).min(1).max(200),
  order: z.array(Order).max(8),
  pageSize: z.int().min(1).max(200),
});
export type TablePane = z.infer<typeof Table>;
