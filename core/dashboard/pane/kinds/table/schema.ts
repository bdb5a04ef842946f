import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { Format } from '#core/value/field/format.ts';
import { dayUnits } from '#core/value/period/units.ts';
import { doingShape, Order, recordsShape, sharedShape } from '../../shared.ts';
import { footings } from './footings.ts';
import { mostGroups } from './most-groups.ts';

const TableColumn = z.object({
  field: FieldName,
  label: z.string().max(500).optional(),
  /** Pixels. */
  width: z.int().min(40).max(1200).optional(),
  hidden: z.boolean().optional(),
  format: Format.optional(),
  /** What stands below it, worked out from all records of the table. */
  foot: z.enum(footings).optional(),
  /** A bar behind each of its numbers. */
  bar: z.boolean().optional(),
  /** Long text goes on in the next line. */
  wrap: z.boolean().optional(),
});
export type TableColumn = z.infer<typeof TableColumn>;

/** Records of one value of a field, or of one unit of time of it where it says when. */
const TableGroup = z.object({ field: FieldName, unit: z.enum(dayUnits).optional() });
export type TableGroup = z.infer<typeof TableGroup>;

export const Table = z.object({
  kind: z.literal('table'),
  ...sharedShape,
  ...recordsShape,
  ...doingShape,
  columns: z.array(TableColumn).min(1).max(200),
  /** Records that stand together under a head with numbers of all of them, and within those again. */
  groups: z.array(TableGroup).min(1).max(mostGroups).optional(),
  order: z.array(Order).max(8),
  pageSize: z.int().min(1).max(200),
  /** This many of the first columns stay in view while the others move sideways. */
  held: z.int().min(1).max(5).optional(),
});
export type TablePane = z.infer<typeof Table>;
