import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { units } from '#core/value/period/units.ts';
import { behind, recordsShape, sharedShape } from '../../shared.ts';
import { chartMarks } from './marks.ts';

export const Chart = z.object({
  kind: z.literal('chart'),
  ...sharedShape,
  ...recordsShape,
  mark: z.enum(chartMarks),
  measure: FieldName,
  by: z.object({ field: FieldName, unit: z.enum(units).optional() }),
  split: FieldName.optional(),
  order: z.enum(['value', 'label']),
  /** The largest N, and whether the others are shown together as "the rest". */
  top: z.object({ count: z.int().min(1).max(50), rest: z.boolean() }).optional(),
  across: z.string().max(200).optional(),
  up: z.string().max(200).optional(),
  behind: behind.optional(),
});
export type ChartPane = z.infer<typeof Chart>;
