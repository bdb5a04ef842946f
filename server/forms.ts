import { parseWithZod } from '@conform-to/zod/v4';
import type { z } from 'zod';

/** What is wrong with which field. */
export type Wrongs<T> = Partial<Record<keyof T & string, string>>;

/** Reads fields whose checks take time (a password is looked up), with what is wrong with each. */
export async function readFields<T extends Record<string, unknown>>(
  fields: Readonly<Record<string, unknown>>,
  schema: z.ZodType<T>,
): Promise<{ ok: true; value: T } | { ok: false; wrong: Wrongs<T> }> {
  const read = await schema.safeParseAsync(fields);
  if (read.success) return { ok: true, value: read.data };
  const wrong: Wrongs<T> = {};
  for (const { path, message } of read.error.issues) wrong[String(path[0]) as keyof T & string] ??= message;
  return { ok: false, wrong };
}

/** The one way in which a posted form is read: values by a schema, or what is wrong with which field. */
export const readForm = <Schema extends z.ZodType>(form: FormData, schema: Schema) =>
  parseWithZod(form, { schema });
