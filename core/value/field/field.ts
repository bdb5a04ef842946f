import { z } from 'zod';
import { Bands } from './bands.ts';
import { Format } from './format.ts';
import { fieldTypes, tones } from './types.ts';

/** A state as readers see it: the stored value, the word for it and its tone, which also chooses the shape. */
export const State = z.object({
  value: z.string().max(200),
  word: z.string().min(1, 'a state needs a word').max(200),
  tone: z.enum(tones),
});
export type State = z.infer<typeof State>;

/** The colours that charts are drawn in, as people call them. */
export const colourNames = ['pine', 'blue', 'ochre', 'rose', 'teal', 'violet', 'sand', 'slate'] as const;
/** This many values of a field can have a colour each. */
export const mostColours = 40;

/** The colour of a value: its place in the set, from 1. */
const ValueColour = z.object({
  value: z.string().max(200),
  colour: z.int().min(1).max(colourNames.length),
});
export type ValueColour = z.infer<typeof ValueColour>;

/** Field names are quoted identifiers wherever they reach SQL; PostgreSQL keeps 63 bytes of one. */
export const FieldName = z
  .string()
  .min(1)
  .max(200)
  .refine((name) => !name.includes('\0'), 'a name cannot hold a NUL character');

export const Field = z.object({
  name: FieldName,
  type: z.enum(fieldTypes),
  label: z.string().max(500).optional(),
  description: z.string().max(2000).optional(),
  unit: z.string().max(60).optional(),
  format: Format.optional(),
  hidden: z.boolean().optional(),
  /** What it stands under in the detail of a record, with others of the same. */
  group: z.string().max(100).optional(),
  states: z.array(State).max(200).optional(),
  /** Of its values that are drawn in the same colour everywhere. A state has that of its tone. */
  colours: z.array(ValueColour).max(mostColours).optional(),
  /** Of a number: which are as they should be, and which are not. */
  bands: Bands.optional(),
  /** The column the field is read from, `schema.table.column`, where the source could say. */
  origin: z.string().max(600).optional(),
  /** The key the field points at, `schema.table.column`, from a foreign key or said by the analyst. */
  refers: z.string().max(600).optional(),
});
export type Field = z.infer<typeof Field>;
