import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { doingShape, recordsShape, sharedShape } from '../../shared.ts';

export const Detail = z.object({
  kind: z.literal('detail'),
  ...sharedShape,
  ...recordsShape,
  ...doingShape,
  fields: z.array(FieldName).min(1).max(200),
});
export type DetailPane = z.infer<typeof Detail>;
