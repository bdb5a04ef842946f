import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { Order, recordsShape, sharedShape } from '../../shared.ts';

export const NextOne = z.object({
  kind: z.literal('next-one'),
  ...sharedShape,
  ...recordsShape,
  /** By what it is the first. */
  order: z.array(Order).min(1).max(8),
  /** Shown beside its name. */
  fields: z.array(FieldName).max(6),
});
export type NextOnePane = z.infer<typeof NextOne>;
