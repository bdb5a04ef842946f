import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { units } from '#core/value/period/units.ts';
import { behind, recordsShape, sharedShape } from '../../shared.ts';

export const Card = z.object({
  kind: z.literal('card'),
  ...sharedShape,
  ...recordsShape,
  measure: FieldName,
  /** `whole`: the whole period before. `sameTime`: both only as far as they had got by this time. */
  against: z.enum(['none', 'whole', 'sameTime']),
  /** How it went over the last units of time, up to the one that the number is about. */
  trend: z.object({ field: FieldName, unit: z.enum(units), count: z.int().min(2).max(60) }).optional(),
  behind: behind.optional(),
});
export type CardPane = z.infer<typeof Card>;
