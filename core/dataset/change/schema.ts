import { z } from 'zod';
import { Condition } from '#core/ask/condition/schema.ts';
import { FieldName } from '#core/value/field/field.ts';
import { tones } from '#core/value/field/types.ts';

/* What people may do to the records of a data set, where those come from. */

/** What a field is set to. */
const Setting = z.discriminatedUnion('kind', [
  /** Canonical text; null is blank. */
  z.object({ kind: z.literal('value'), value: z.string().max(100_000).nullable() }),
  z.object({ kind: z.literal('now') }),
  /** Of the desk’s zone. */
  z.object({ kind: z.literal('today') }),
  /** The name of whoever does it. */
  z.object({ kind: z.literal('me') }),
  /** Whoever does it is asked. */
  z.object({ kind: z.literal('ask'), required: z.boolean().optional() }),
]);
export type Setting = z.infer<typeof Setting>;

export const ways = ['update', 'insert', 'remove'] as const;
/** What becomes of records: fields of them are set, one is added, or they go. */
export type Way = (typeof ways)[number];

/** As many records as one action may reach at once. */
export const mostAtOnce = 10_000;

/** Records of another data set of the same source that are added together with one: a requisition with its lines. */
export const ActionLines = z.object({
  dataSet: z.uuid(),
  /** The action there that says what is asked of each. */
  action: FieldName,
  /** The field there that says which one they are of. */
  refers: FieldName,
  /** What a service calls them within the one that they are of; a database has no such name. */
  member: z.string().trim().min(1).max(200).optional(),
});
export type ActionLines = z.infer<typeof ActionLines>;

/** As many lines as one record may be added with. */
export const mostLines = 200;

export const Action = z.object({
  name: FieldName,
  /** As it stands on its button: "Set done". */
  label: z.string().trim().min(1, 'an action needs a name').max(100),
  tone: z.enum(tones).optional(),
  way: z.enum(ways),
  /** Which records it is offered for; all where absent. */
  where: Condition.optional(),
  sets: z
    .array(z.object({ field: FieldName, to: Setting }))
    .max(100)
    .refine(
      (sets) => new Set(sets.map(({ field }) => field)).size === sets.length,
      'a field is set once by an action',
    ),
  /** Of an action that adds a record: what is added together with it. */
  lines: ActionLines.optional(),
  /** What is shown once it is done: the next record of the list that one was opened from, or the record itself; absent: what was shown before. */
  after: z.enum(['next', 'open']).optional(),
  /** This many records at once; absent: {@link mostAtOnce}. */
  most: z.int().min(1).max(mostAtOnce).optional(),
  /** Only for people of one of these groups, by name, and those who build; absent: for all who may change records. */
  groups: z.array(z.string().min(1).max(200)).min(1).max(50).optional(),
});
export type Action = z.infer<typeof Action>;

const Path = z.string().max(4000);

/** A call of a service by which a record is changed. Path and body hold values of the record as `{field}`. */
export const ChangeCall = z.object({
  method: z.enum(['POST', 'PUT', 'PATCH', 'DELETE']),
  path: Path,
  /** JSON text; absent: the members that are set. */
  body: z.string().max(200_000).optional(),
});
export type ChangeCall = z.infer<typeof ChangeCall>;

/** How a service that is no table is told of changes, and asked for one record to see what became of it. */
export const ChangeCalls = z.object({
  read: z.object({
    path: Path,
    /** Where in the answer the record is (JSONPath, RFC 9535). */
    record: z.string().min(1).max(1000),
  }),
  update: ChangeCall.optional(),
  insert: ChangeCall.optional(),
  remove: ChangeCall.optional(),
});
export type ChangeCalls = z.infer<typeof ChangeCalls>;

export const ruleOrders = ['above', 'atLeast', 'below', 'atMost', 'differs'] as const;
export type RuleOrder = (typeof ruleOrders)[number];

/** What a field of a record that people change has to be, compared with another: "landed is after left". */
export const ChangeRule = z.object({ field: FieldName, is: z.enum(ruleOrders), than: FieldName });
export type ChangeRule = z.infer<typeof ChangeRule>;

export const Changes = z.object({
  /** Of a data set whose service is no table. */
  calls: ChangeCalls.optional(),
  /** What has to be so between fields once a record is changed or added. */
  rules: z.array(ChangeRule).max(50).optional(),
  /** Fields of records there are that may be changed one by one, in their place. */
  inPlace: z.array(FieldName).max(200),
  actions: z
    .array(Action)
    .max(50)
    .refine(
      (actions) => new Set(actions.map(({ name }) => name)).size === actions.length,
      'two actions have one name',
    ),
});
export type Changes = z.infer<typeof Changes>;
