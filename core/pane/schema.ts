import { z } from 'zod';
import { Condition } from '#core/condition/schema.ts';
import { FieldName } from '#core/field/field.ts';
import { Format } from '#core/format/schema.ts';
import { Period } from '#core/period/schema.ts';
import { units } from '#core/period/units.ts';
import { chartMarks } from './kinds.ts';

const Place = z.object({
  x: z.int().min(0).max(11),
  y: z.int().min(0).max(1000),
  w: z.int().min(1).max(12),
  h: z.int().min(1).max(40),
});
export type Place = z.infer<typeof Place>;

const shared = {
  id: z.string().regex(/^[a-z0-9-]{1,60}$/),
  title: z.string().max(500),
  dataSet: z.uuid(),
  /** Only the records of this subset of the data set. */
  subset: FieldName.optional(),
  /** The analyst's own filter: always on. */
  keeping: Condition.optional(),
  /** The pane's own period, which the reader's periods and picks of time do not touch; `any`: at any time. */
  when: z.union([z.object({ field: FieldName, period: Period }), z.literal('any')]).optional(),
  place: Place,
  /** What must be looked at before the pane has anything to say: a key, `schema.table.column`. */
  waitsFor: z.string().max(600).optional(),
};

/** The fields that the records behind a number show, beside those that other panes show of them. */
const behind = z.array(FieldName).max(50);

const Order = z.object({ by: FieldName, descending: z.boolean().optional() });

export const Card = z.object({
  kind: z.literal('card'),
  ...shared,
  measure: FieldName,
  /** `whole`: the whole period before. `sameTime`: both only as far as they had got by this time. */
  against: z.enum(['none', 'whole', 'sameTime']),
  behind: behind.optional(),
});

export const Chart = z.object({
  kind: z.literal('chart'),
  ...shared,
  mark: z.enum(chartMarks),
  measure: FieldName,
  by: z.object({ field: FieldName, unit: z.enum(units).optional() }),
  split: FieldName.optional(),
  order: z.enum(['value', 'label']),
  /** The largest N, and whether the others are shown together as "the rest". */
  top: z.object({ count: z.int().min(1).max(50), rest: z.boolean() }).optional(),
  across: z.string().max(200).optional(),
  up: z.string().max(200).optional(),
  behind: behind.optional(),
});

export const TableColumn = z.object({
  field: FieldName,
  label: z.string().max(500).optional(),
  /** Pixels. */
  width: z.int().min(40).max(1200).optional(),
  hidden: z.boolean().optional(),
  format: Format.optional(),
});
export type TableColumn = z.infer<typeof TableColumn>;

export const Table = z.object({
  kind: z.literal('table'),
  ...shared,
  columns: z.array(TableColumn).min(1).max(200),
  order: z.array(Order).max(8),
  pageSize: z.int().min(1).max(200),
});

export const Detail = z.object({
  kind: z.literal('detail'),
  ...shared,
  fields: z.array(FieldName).min(1).max(200),
});

export const Pane = z.discriminatedUnion('kind', [Card, Chart, Table, Detail]);
export type Pane = z.infer<typeof Pane>;
export type CardPane = z.infer<typeof Card>;
export type ChartPane = z.infer<typeof Chart>;
export type TablePane = z.infer<typeof Table>;
export type DetailPane = z.infer<typeof Detail>;
