import { z } from 'zod';
import { Condition } from '#core/condition/schema.ts';
import { Field, FieldName } from '#core/field/field.ts';
import { fieldTypes } from '#core/field/types.ts';
import { Keep } from '#core/kept/schema.ts';
import { Measure } from '#core/measure/schema.ts';

const identifier = z
  .string()
  .min(1)
  .max(200)
  .refine((name) => !name.includes('\0'), 'no NUL characters');

/** How a source column becomes a field's type where the two differ. */
const reads = ['text', 'utc', 'number'] as const;

export const Column = z.object({
  column: identifier,
  name: FieldName,
  type: z.enum(fieldTypes),
  /** `text`: written out as text. `utc`: a moment without a zone, taken as UTC. `number`: taken as exact. */
  read: z.enum(reads).optional(),
  /** The source promises that it is never blank, so an index can give its order both ways. */
  filled: z.boolean().optional(),
});
export type Column = z.infer<typeof Column>;

/** Follows one foreign key to at most one record of another table, so it can neither multiply nor drop records. */
export const LookUp = z.object({
  as: FieldName,
  /** The look-up it starts from; absent: the table itself. */
  from: FieldName.optional(),
  by: identifier,
  schema: identifier,
  table: identifier,
  key: identifier,
  take: z.array(Column).max(500),
});
export type LookUp = z.infer<typeof LookUp>;

export const Request = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('table'),
    schema: identifier,
    table: identifier,
    columns: z.array(Column).max(1600),
    lookUps: z.array(LookUp).max(50),
  }),
  z.object({
    kind: z.literal('sql'),
    text: z.string().min(1).max(100_000),
    columns: z.array(Column).max(1600),
  }),
  /** Records of files that were uploaded: always kept, and never asked for anywhere else. */
  z.object({ kind: z.literal('upload'), columns: z.array(Column).max(0) }),
]);
export type Request = z.infer<typeof Request>;

export const inputTypes = ['text', 'integer', 'decimal', 'boolean', 'date', 'instant'] as const;
export const Input = z.object({
  name: z
    .string()
    .regex(/^[a-z_][a-z0-9_]*$/i)
    .max(60),
  type: z.enum(inputTypes),
  label: z.string().max(500).optional(),
  required: z.boolean(),
  /** Used while designing only; never on a reader's page. */
  sample: z.string().max(2000).optional(),
  /** What it stands for (see `meaningOf`), so that a record being looked at can supply it. */
  refers: z.string().max(600).optional(),
});
export type Input = z.infer<typeof Input>;

export const DataSet = z.object({
  version: z.literal(1),
  source: z.uuid(),
  request: Request,
  inputs: z.array(Input).max(50),
  fields: z.array(Field).min(1).max(1600),
  /** The field that identifies a record. */
  key: FieldName.optional(),
  /** The field that names a record to a reader. */
  title: FieldName.optional(),
  noun: z.object({ one: z.string().min(1).max(200), many: z.string().min(1).max(200) }),
  /** Always on. */
  keeping: Condition.optional(),
  measures: z.array(Measure).max(200),
  /** Its records are copied and kept; without this they are asked of the source each time. */
  keep: Keep.optional(),
});
export type DataSet = z.infer<typeof DataSet>;
