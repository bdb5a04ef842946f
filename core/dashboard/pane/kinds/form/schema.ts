import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { recordsShape, sharedShape } from '../../shared.ts';

export const Form = z.object({
  kind: z.literal('form'),
  ...sharedShape,
  ...recordsShape,
  /** It is filled in for a new record, or for the one that is picked. */
  about: z.enum(['new', 'picked']),
  /** The action of its data set that is done with it; empty while there is none. */
  action: z.union([FieldName, z.literal('')]),
});
export type FormPane = z.infer<typeof Form>;
