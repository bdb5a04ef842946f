import { parseWithZod } from '@conform-to/zod/v4';
import type { z } from 'zod';

/** The one way in which a posted form is read: values by a schema, or what is wrong with which field. */
export const readForm = <Schema extends z.ZodType>(form: FormData, schema: Schema) =>
  parseWithZod(form, { schema });
