import { z } from 'zod';
import { Condition } from '#core/ask/condition/schema.ts';
import { Measure } from '#core/ask/measure/schema.ts';
import { Changes } from '#core/dataset/change/schema.ts';
import { AnswerFormat, HttpCall, Paging } from '#core/dataset/http/schema.ts';
import { forms } from '#core/dataset/kept/forms.ts';
import { Keep } from '#core/dataset/kept/schema.ts';
import { LineFormat, timeFormats } from '#core/dataset/log/schema.ts';
import { Step } from '#core/dataset/step/schema.ts';
import { Field, FieldName } from '#core/value/field/field.ts';
import { fieldTypes } from '#core/value/field/types.ts';

const identifier = z
  .string()
  .min(1)
  .max(200)
  .refine((name) => !name.includes('\0'), 'no NUL characters');

/** How a source column becomes a field's type where the two differ. */
const reads = ['text', 'utc', 'number', 'whole'] as const;

export const Column = z.object({
  column: identifier,
  name: FieldName,
  type: z.enum(fieldTypes),
  /** `text`: written out as text. `utc`: a moment without a zone, taken as UTC. `number`: taken as exact. */
  read: z.enum(reads).optional(),
  /** The source promises that it is never blank, so an index can give its order both ways. */
  filled: z.boolean().optional(),
  /** The source works it out by itself; nobody else can say it. */
  made: z.boolean().optional(),
  /** The source has a value for it where none is given. */
  usual: z.boolean().optional(),
  /** This many characters at most. */
  longest: z.int().min(1).optional(),
  /** The only texts that it may be. */
  among: z.array(z.string().max(200)).max(200).optional(),
  /** How a moment is written in the text of a log; absent: ISO 8601. */
  time: z.enum(timeFormats).optional(),
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
  /** What the source calls the way there, where it has a name: an OData navigation property. */
  via: identifier.optional(),
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
  /** Records of a service's answers; a column is a JSON Pointer (RFC 6901) in the record. */
  z.object({
    kind: z.literal('http'),
    call: HttpCall,
    format: AnswerFormat,
    /** Where in a JSON answer the records are: JSONPath (RFC 9535). */
    records: z.string().min(1).max(1000),
    paging: Paging,
    columns: z.array(Column).max(1600),
  }),
  /** Lines of log files; a column is what the format calls the part of the line. */
  z.object({
    kind: z.literal('log'),
    /** A glob under the source's folder. */
    files: z.string().min(1).max(1000),
    line: LineFormat,
    /** What the first line of a record looks like (RE2), where a record can be several lines. */
    first: z.string().min(1).max(5000).optional(),
    columns: z.array(Column).max(1600),
  }),
  /** Records that are sent to us; a column is a JSON Pointer in the record. */
  z.object({ kind: z.literal('intake'), columns: z.array(Column).max(1600) }),
  /** Records of another data set, or of a subset of it, to which the steps of this one are added. */
  z.object({
    kind: z.literal('of'),
    dataSet: z.uuid(),
    subset: FieldName.optional(),
    columns: z.array(Column).max(0),
  }),
  /** What people noted here of the records of a data set; a column is what is known of one. */
  z.object({ kind: z.literal('follow-ups'), dataSet: z.uuid(), columns: z.array(Column).min(1).max(20) }),
  /** Records of files that were uploaded: always kept, and never asked for anywhere else. */
  z.object({
    kind: z.literal('upload'),
    columns: z.array(Column).max(0),
    /** Fields whose texts are written in a form of their own, which later files are read by too. */
    forms: z.record(FieldName, z.enum(forms)).optional(),
  }),
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
  /** What it is where nothing supplies it, in canonical text. */
  initially: z.string().max(2000).optional(),
  /** Used while designing only; never on a reader's page. */
  sample: z.string().max(2000).optional(),
  /** What it stands for (see `meaningOf`), so that a record being looked at can supply it. */
  refers: z.string().max(600).optional(),
  /** It may only have values that stand in a field of another data set. */
  allowed: z.object({ dataSet: z.uuid(), field: FieldName }).optional(),
});
export type Input = z.infer<typeof Input>;

/** A named standing subset, usable wherever the data set is. */
export const Subset = z.object({
  name: FieldName,
  /** As it stands in a sentence: "open work orders". */
  label: z.string().min(1).max(500),
  where: Condition,
});
export type Subset = z.infer<typeof Subset>;

const expectation = z.discriminatedUnion('kind', [
  /** No two records are alike in these fields. */
  z.object({ kind: z.literal('unique'), fields: z.array(FieldName).min(1).max(10) }),
  z.object({ kind: z.literal('filled'), field: FieldName }),
  /** Every record meets the condition. */
  z.object({ kind: z.literal('all'), where: Condition }),
  /** How many records there are. */
  z.object({
    kind: z.literal('count'),
    least: z.int().min(0).optional(),
    most: z.int().min(0).optional(),
  }),
  /** The latest moment or date is no longer ago than this. */
  z.object({ kind: z.literal('fresh'), field: FieldName, hours: z.int().min(1).max(100_000) }),
]);

/** What is expected of the records, tried with each refresh. */
export const Check = z.object({
  name: z.string().min(1).max(200),
  expects: expectation,
  /** A version that fails is not given to readers. */
  holds: z.boolean(),
});
export type Check = z.infer<typeof Check>;

export const DataSet = z.object({
  version: z.literal(2),
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
  /**
   * Which records somebody may see who does not build: a condition on the fields that compares them with who asks. It holds wherever the
   * records go, in data sets made of this one too.
   */
  rowRule: Condition.optional(),
  measures: z.array(Measure).max(200),
  /** The fields that the request yields, where steps make others of them; `fields` are what comes of the steps. */
  start: z.array(Field).min(1).max(1600).optional(),
  steps: z.array(Step).max(100).optional(),
  /** Warnings about the steps that the analyst has accepted, each by its subject. */
  acceptedWarnings: z.array(z.string().min(1).max(400)).max(500).optional(),
  subsets: z.array(Subset).max(100).optional(),
  checks: z.array(Check).max(100).optional(),
  /** Its records are copied and kept; without this they are asked of the source each time. */
  keep: Keep.optional(),
  /** What people may do to its records; without this nothing. */
  changes: Changes.optional(),
  /** People note what they learnt about its records, and who does what about them. */
  followUp: z.boolean().optional(),
  /** Records that are fetched when they are asked for may be this old, in seconds. */
  fresh: z.int().min(0).max(604_800).optional(),
});
export type DataSet = z.infer<typeof DataSet>;
