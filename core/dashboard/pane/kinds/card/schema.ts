import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { behind, recordsShape, sharedShape } from '../../shared.ts';

export const Card = z.object({
  kind: z.literal('card'),
  ...sharedShape,
  ...recordsShape,
  measure: FieldName,
  /** `whole`: the whole period before. `sameTime`: both only as far as they had got by this time. */
  against: z.enum(['none', 'whole', 'sameTime']),
  behind: behind.optional(),
});
export type CardPane = z.infer<typeof Card>;
