import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { doingShape, Order, recordsShape, sharedShape } from '../../shared.ts';

export const RecordCards = z.object({
  kind: z.literal('record-cards'),
  ...sharedShape,
  ...recordsShape,
  ...doingShape,
  /** Beside its name, in order. */
  fields: z.array(FieldName).min(1).max(8),
  /** The field whose picture stands on a card. */
  picture: FieldName.optional(),
  order: z.array(Order).max(8),
  pageSize: z.int().min(1).max(200),
  /** The list of the same data set whose records, order, page and search they have. */
  inStepWith: z.string().max(60).optional(),
  /** The fields that are searched where they are in step: those of the other list. */
  searched: z.array(FieldName).max(200).optional(),
});
export type RecordCardsPane = z.infer<typeof RecordCards>;
