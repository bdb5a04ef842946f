import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { cycles, units } from '#core/value/period/units.ts';
import { behind, recordsShape, sharedShape } from '../../shared.ts';

/** A level of heads: the values of a field, or of a date or moment its units, or what comes round again. */
const Level = z.object({
  field: FieldName,
  unit: z.enum(units).optional(),
  cycle: z.enum(cycles).optional(),
});
export type Level = z.infer<typeof Level>;

/** How its numbers are written: as they are, as shares, or as what they differ by from the column before. */
export const cellWays = ['value', 'row share', 'column share', 'whole share', 'difference'] as const;
export type CellWay = (typeof cellWays)[number];

export const mostLevels = 4;
export const mostMeasures = 4;

export const Crosstab = z.object({
  kind: z.literal('crosstab'),
  ...sharedShape,
  ...recordsShape,
  down: z.array(Level).min(1).max(mostLevels),
  across: z.array(Level).max(mostLevels),
  measures: z.array(FieldName).min(1).max(mostMeasures),
  cells: z.enum(cellWays),
  /** Cells are the darker the higher their numbers are. */
  shaded: z.boolean().optional(),
  /** The order of what stands below each other: by its heads, or by its totals, highest first. */
  order: z.enum(['label', 'value']),
  /** The largest N of the first level down, and whether the others are shown together as "the rest". */
  top: z.object({ count: z.int().min(1).max(200), rest: z.boolean() }).optional(),
  behind: behind.optional(),
});
export type CrosstabPane = z.infer<typeof Crosstab>;
