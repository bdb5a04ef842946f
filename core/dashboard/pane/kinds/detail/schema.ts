import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { shared } from '../../shared.ts';

export const Detail = z.object({
  kind: z.literal('detail'),
  ...shared,
  fields: z.array(FieldName).min(1).max(200),
});
export type DetailPane = z.infer<typeof Detail>;
