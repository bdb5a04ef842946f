import { z } from 'zod';
import { Condition } from '#core/ask/condition/schema.ts';
import { longestExpression } from '#core/ask/expression/tokens.ts';
import { Calculation } from '#core/ask/measure/schema.ts';
import { FieldName } from '#core/value/field/field.ts';
import { fieldTypes } from '#core/value/field/types.ts';
import { units } from '#core/value/period/units.ts';

const text = z.string().max(2000);
const names = z.array(FieldName).max(50);
const Order = z.object({ by: FieldName, descending: z.boolean().optional() });
const orders = z.array(Order).max(8);

/** Another data set, or a subset of one. */
export const Ref = z.object({ dataSet: z.uuid(), subset: FieldName.optional() });
export type Ref = z.infer<typeof Ref>;

export const days = ['day', 'hour', 'minute', 'second'] as const;
const calendarUnits = units.filter((unit) => unit !== 'hour') as Exclude<(typeof units)[number], 'hour'>[];

/** How a derived field is worked out: an expression, or one of the ready-made ways. */
export const Making = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('expression'), text: z.string().max(longestExpression) }),
  /** Texts put together; blanks leave no gap. */
  z.object({ kind: z.literal('join'), fields: names, between: text }),
  /** The part of a text between separators, counted from 1. */
  z.object({ kind: z.literal('split'), field: FieldName, at: text.min(1), part: z.int().min(1).max(100) }),
  /** What a pattern (RE2) finds: its first group, else all of it. */
  z.object({ kind: z.literal('extract'), field: FieldName, pattern: text.min(1) }),
  /** Whole days, hours, minutes or seconds from one moment to another, or to now. */
  z.object({ kind: z.literal('between'), from: FieldName, to: FieldName.optional(), unit: z.enum(days) }),
  /** A word for each stretch of a number: those below each bound in turn, then the rest. */
  z.object({
    kind: z.literal('bands'),
    field: FieldName,
    bands: z
      .array(z.object({ below: text, word: text }))
      .min(1)
      .max(30),
    rest: text,
  }),
  /** The lower end of the equal stretch that a number falls into. */
  z.object({ kind: z.literal('bins'), field: FieldName, size: text }),
  z.object({
    kind: z.literal('choose'),
    when: z
      .array(z.object({ where: Condition, word: text }))
      .min(1)
      .max(30),
    otherwise: text,
  }),
  /** An address from an RFC 6570 template over the fields. */
  z.object({ kind: z.literal('link'), template: text.min(1) }),
  /** The first day of the calendar unit that a date or moment is in. */
  z.object({ kind: z.literal('period'), field: FieldName, unit: z.enum(calendarUnits) }),
  /** A moment moved by some minutes, for clocks that are wrong; only the records that a condition keeps. */
  z.object({
    kind: z.literal('shift'),
    field: FieldName,
    minutes: z.int().min(-100_000).max(100_000),
    where: Condition.optional(),
  }),
  /** A moment that was read as UTC and was written by the clocks of a zone. */
  z.object({ kind: z.literal('clock'), field: FieldName, zone: z.string().min(1).max(60) }),
]);
export type Making = z.infer<typeof Making>;

export const lookUpModes = ['one', 'first', 'count', 'aggregate', 'any', 'all'] as const;

const shared = {
  id: z.string().regex(/^[a-z0-9-]{1,60}$/),
  /** Passed over. */
  off: z.boolean().optional(),
};

const Taken = z.object({ field: FieldName, as: FieldName });
const Stepped = z.object({
  name: FieldName,
  calculation: Calculation,
  where: Condition.optional(),
});

/** One shaping operation. What each does to fields and records is in `kinds.ts` beside this file. */
export const Step = z.discriminatedUnion('kind', [
  /** Only these fields, in this order. */
  z.object({ kind: z.literal('fields'), ...shared, keep: z.array(FieldName).min(1).max(1600) }),
  z.object({ kind: z.literal('rename'), ...shared, field: FieldName, as: FieldName }),
  z.object({
    kind: z.literal('type'),
    ...shared,
    field: FieldName,
    to: z.enum(fieldTypes),
    /** What becomes of a value that cannot be read so: blank; blank, with its text beside it; or the data set fails. */
    misfit: z.enum(['blank', 'list', 'stop']),
  }),
  z.object({ kind: z.literal('where'), ...shared, condition: Condition }),
  z.object({ kind: z.literal('derive'), ...shared, name: FieldName, making: Making }),
  z.object({
    kind: z.literal('lookUp'),
    ...shared,
    from: Ref,
    /** Fields that must be equal: ours, and the other's. */
    on: z
      .array(z.object({ field: FieldName, other: FieldName }))
      .min(1)
      .max(5),
    mode: z.enum(lookUpModes),
    /** `one`, `first`, `all`: what is brought. */
    take: z.array(Taken).max(200),
    /** `first`: by which order. */
    order: orders,
    /** `count`, `aggregate`, `any`, `all`: the name of the field. */
    as: FieldName.optional(),
    calculation: Calculation.optional(),
  }),
  /** A record for each item of a list. */
  z.object({
    kind: z.literal('unfold'),
    ...shared,
    field: FieldName,
    /** The field for the item. */
    as: FieldName,
    /** The field for its place in the list, counted from 1. */
    place: FieldName.optional(),
    /** Records without an item stay, with a blank one. */
    keepEmpty: z.boolean(),
  }),
  /** Members of an object as fields; a path is a JSON Pointer (RFC 6901). */
  z.object({
    kind: z.literal('spread'),
    ...shared,
    field: FieldName,
    take: z
      .array(z.object({ path: z.string().max(1000), name: FieldName, type: z.enum(fieldTypes) }))
      .max(500),
    keepWhole: z.boolean(),
  }),
  /** The records of other data sets under these; fields are matched by name. */
  z.object({
    kind: z.literal('stack'),
    ...shared,
    with: z
      .array(z.object({ ref: Ref, word: text }))
      .min(1)
      .max(20),
    /** A field that says which data set a record is of, and the word for these. */
    origin: z.object({ name: FieldName, word: text }).optional(),
  }),
  /** One record for each different value of the fields: the first by an order. */
  z.object({ kind: z.literal('distinct'), ...shared, by: names, order: orders }),
  z.object({
    kind: z.literal('fill'),
    ...shared,
    field: FieldName,
    with: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('value'), value: text }),
      /** The latest value before it in an order, among records alike in some fields. */
      z.object({ kind: z.literal('before'), order: orders, within: names }),
    ]),
  }),
  z.object({
    kind: z.literal('summarise'),
    ...shared,
    by: z
      .array(z.object({ field: FieldName, unit: z.enum(calendarUnits).optional(), as: FieldName }))
      .max(20),
    measures: z.array(Stepped).min(1).max(100),
  }),
  /** The place of a record in an order; those that tie share one. */
  z.object({
    kind: z.literal('rank'),
    ...shared,
    as: FieldName,
    order: orders,
    within: names,
    keep: z.int().min(1).max(1_000_000).optional(),
  }),
  z.object({
    kind: z.literal('running'),
    ...shared,
    as: FieldName,
    what: z.enum(['total', 'difference', 'average', 'share']),
    field: FieldName,
    order: orders,
    within: names,
    /** `average`: over how many records, this one and those before. */
    over: z.int().min(1).max(10_000).optional(),
  }),
  /** A record for every calendar unit from the first to the last, for each group; what is new counts as zero. */
  z.object({
    kind: z.literal('periods'),
    ...shared,
    field: FieldName,
    unit: z.enum(calendarUnits),
    within: names,
    zero: names,
  }),
  /** A field for each of some values of a field. */
  z.object({
    kind: z.literal('wide'),
    ...shared,
    by: names,
    across: FieldName,
    values: z
      .array(z.object({ value: text, as: FieldName }))
      .min(1)
      .max(200),
    calculation: Calculation,
  }),
  /** A record for each of some fields: its name and its value. */
  z.object({
    kind: z.literal('long'),
    ...shared,
    fields: names,
    name: FieldName,
    value: FieldName,
  }),
]);
export type Step = z.infer<typeof Step>;
export type StepKindName = Step['kind'];
export type StepOf<K extends StepKindName> = Extract<Step, { kind: K }>;
