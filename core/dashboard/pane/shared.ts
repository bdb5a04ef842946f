import { z } from 'zod';
import { Condition } from '#core/ask/condition/schema.ts';
import { FieldName } from '#core/value/field/field.ts';
import { Period } from '#core/value/period/schema.ts';

const Place = z.object({
  x: z.int().min(0).max(11),
  y: z.int().min(0).max(1000),
  w: z.int().min(1).max(12),
  h: z.int().min(1).max(40),
});
export type Place = z.infer<typeof Place>;

/** What panes of every kind have. */
export const sharedShape = {
  id: z.string().regex(/^[a-z0-9-]{1,60}$/),
  title: z.string().max(500),
  place: Place,
};
const Shared = z.object(sharedShape);
export type Shared = z.infer<typeof Shared>;

/** Which records of a data set a pane shows something of, and of when. */
export const recordsShape = {
  dataSet: z.uuid(),
  /** Only the records of this subset of the data set. */
  subset: FieldName.optional(),
  /** The analyst's own filter: always on. */
  keeping: Condition.optional(),
  /** The pane's own period, which the reader's periods and picks of time do not touch; `any`: at any time. */
  when: z.union([z.object({ field: FieldName, period: Period }), z.literal('any')]).optional(),
  /** What must be looked at before the pane has anything to say: a key, `schema.table.column`. */
  waitsFor: z.string().max(600).optional(),
};
const PaneRecords = z.object(recordsShape);
export type PaneRecords = z.infer<typeof PaneRecords>;

/** The fields that the records behind a number show, beside those that other panes show of them. */
export const behind = z.array(FieldName).max(50);

export const Order = z.object({ by: FieldName, descending: z.boolean().optional() });

/** What readers may do to the records that a pane shows, of what its data set lets them. */
export const doingShape = {
  /** The actions that it offers, by name. */
  actions: z.array(FieldName).max(50).optional(),
  /** The fields that can be changed in their place. */
  inPlace: z.array(FieldName).max(200).optional(),
};
