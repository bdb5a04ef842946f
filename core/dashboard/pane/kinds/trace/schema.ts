import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { recordsShape, sharedShape } from '../../shared.ts';

/** The events of one system: records of a data set, each of a case and a moment. */
const Lane = z.object({
  name: z.string().min(1).max(60),
  ...recordsShape,
  /** The field that says which case an event is of. */
  case: FieldName,
  at: FieldName,
  /** The moment by the clock of the machine that saw it, where that may be wrong and `at` is put right. */
  clock: FieldName.optional(),
  /** How it went. */
  outcome: FieldName.optional(),
  /** What happened. */
  words: FieldName.optional(),
  /** Shown when an event is opened. */
  fields: z.array(FieldName).max(12),
  /** Where a deep tool shows it: a URI Template (RFC 6570) of the event's fields, and of `from`, `at` and `to`. */
  link: z.string().max(2000).optional(),
});
export type Lane = z.infer<typeof Lane>;

/** An event that should follow another within this many minutes. */
const Expected = z.object({
  lane: z.int().min(0).max(7),
  after: z.int().min(0).max(7),
  minutes: z.int().min(1).max(100_000),
});

export const Trace = z.object({
  kind: z.literal('trace'),
  ...sharedShape,
  /** What its cases are: their meaning (see `meaningOf`), and what one is called. */
  about: z.object({ meaning: z.string().min(1).max(600), noun: z.string().min(1).max(200) }),
  lanes: z.array(Lane).min(1).max(8),
  /** A gap of this many seconds is long; absent: the slowest tenth of them. */
  longGap: z.int().min(1).max(10_000_000).optional(),
  expects: z.array(Expected).max(20),
  /** Minutes before and after an event that a link's `from` and `to` are. */
  span: z.int().min(0).max(100_000),
});
export type TracePane = z.infer<typeof Trace>;
