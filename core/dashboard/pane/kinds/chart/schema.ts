import { z } from 'zod';
import { BinWidth } from '#core/value/bins/schema.ts';
import { FieldName } from '#core/value/field/field.ts';
import { cycles, units } from '#core/value/period/units.ts';
import { behind, recordsShape, sharedShape } from '../../shared.ts';
import { chartMarks, stackings } from './marks.ts';

export const Chart = z.object({
  kind: z.literal('chart'),
  ...sharedShape,
  ...recordsShape,
  mark: z.enum(chartMarks),
  measure: FieldName,
  by: z.object({
    field: FieldName,
    unit: z.enum(units).optional(),
    cycle: z.enum(cycles).optional(),
    /** Numbers by the range that they are in; without a width, as wide as suits them. */
    bins: z.object({ width: BinWidth.optional() }).optional(),
  }),
  split: FieldName.optional(),
  /** How what is split stands; absent: stacked. */
  stack: z.enum(stackings).optional(),
  /**
   * The same chart once for each value of a field: for the largest N, and whether once more for all others together. They stand in the order
   * of the values, unless told by what the measure is of each, the highest first.
   */
  each: z
    .object({
      field: FieldName,
      count: z.int().min(1).max(48),
      rest: z.boolean().optional(),
      order: z.literal('value').optional(),
    })
    .optional(),
  /** Each of those charts has a scale of its own, and they do not compare. */
  ownScales: z.boolean().optional(),
  /** Equal steps of its scale are equal factors. */
  logarithmic: z.boolean().optional(),
  /** Another measure, as a line on a scale of its own. */
  second: FieldName.optional(),
  /** Along time, each point is all that was up to then. */
  running: z.boolean().optional(),
  /** The period before stands behind it. */
  before: z.boolean().optional(),
  order: z.enum(['value', 'label']),
  /** The largest N, and whether the others are shown together as "the rest". */
  top: z.object({ count: z.int().min(1).max(50), rest: z.boolean() }).optional(),
  across: z.string().max(200).optional(),
  up: z.string().max(200).optional(),
  behind: behind.optional(),
});
export type ChartPane = z.infer<typeof Chart>;
