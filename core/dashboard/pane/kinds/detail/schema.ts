import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { sharedShape } from '../../shared.ts';

export const Detail = z.object({
  kind: z.literal('detail'),
  ...sharedShape,
  fields: z.array(FieldName).min(1).max(200),
});
export type DetailPane = z.infer<typeof Detail>;
