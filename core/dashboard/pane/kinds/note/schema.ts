import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { behind, recordsShape, sharedShape } from '../../shared.ts';
import { longestText } from './text.ts';

/** A live value of a text: a measure, or the value of a field that most of a measure falls to. */
const NoteValue = z.object({
  /** As it stands in the text, in braces. */
  name: z.string().regex(/^[\p{L}\p{N}][\p{L}\p{N} -]{0,59}$/u),
  ...recordsShape,
  measure: FieldName,
  /** The field whose value it is; absent: it is the number itself. */
  most: FieldName.optional(),
  behind: behind.optional(),
});
export type NoteValue = z.infer<typeof NoteValue>;

export const Note = z.object({
  kind: z.literal('note'),
  ...sharedShape,
  /** Markdown (CommonMark 0.31); `{name}` stands for a value. */
  text: z.string().max(longestText),
  /** What it says in place of that while a value in it is blank. */
  otherwise: z.string().max(longestText).optional(),
  values: z
    .array(NoteValue)
    .max(20)
    .refine(
      (values) => new Set(values.map(({ name }) => name)).size === values.length,
      'two numbers have one name',
    ),
});
export type NotePane = z.infer<typeof Note>;
