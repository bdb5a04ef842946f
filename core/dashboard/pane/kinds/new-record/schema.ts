import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { recordsShape, sharedShape } from '../../shared.ts';

export const NewRecord = z.object({
  kind: z.literal('new-record'),
  ...sharedShape,
  ...recordsShape,
  /** The action of its data set by which one is added; empty while there is none. */
  action: z.union([FieldName, z.literal('')]),
});
export type NewRecordPane = z.infer<typeof NewRecord>;
