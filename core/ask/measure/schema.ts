import { z } from 'zod';
import { Condition } from '#core/ask/condition/schema.ts';
import { Bands } from '#core/value/field/bands.ts';
import { FieldName } from '#core/value/field/field.ts';
import { Format } from '#core/value/field/format.ts';

const simple = [
  z.object({ kind: z.literal('count') }),
  z.object({ kind: z.enum(['distinct', 'sum', 'average', 'least', 'greatest', 'median']), field: FieldName }),
  /** The nearest-rank percentile: always the value of a real record (ISO 3534-1's quantile of a sample). */
  z.object({ kind: z.literal('percentile'), field: FieldName, at: z.int().min(1).max(99) }),
  /** The value in the record that comes first or last by another field; records where either is blank are passed over. */
  z.object({ kind: z.enum(['first', 'last']), field: FieldName, by: FieldName }),
  /** The sum of each value times its weight, over the sum of the weights. */
  z.object({ kind: z.literal('weighted'), field: FieldName, by: FieldName }),
] as const;

const Simple = z.discriminatedUnion('kind', simple);

/** What is computed over the records of a group. Ratios divide totals; they never average ratios. */
export const Calculation = z.discriminatedUnion('kind', [
  ...simple,
  /** Records that meet the condition, as a part of all records in the group: 0…1, blank for no records. */
  z.object({ kind: z.literal('share'), where: Condition }),
  z.object({ kind: z.literal('ratio'), of: Simple, to: Simple }),
]);
export type Calculation = z.infer<typeof Calculation>;
export type SimpleCalculation = z.infer<typeof Simple>;

export const Measure = z.object({
  name: FieldName,
  /** As it stands in a sentence: "late sailings", "average delay". */
  label: z.string().min(1).max(500),
  calculation: Calculation,
  /** Only these records are measured. */
  where: Condition.optional(),
  unit: z.string().max(60).optional(),
  format: Format.optional(),
  good: z.enum(['up', 'down']).optional(),
  target: z.string().max(60).optional(),
  bands: Bands.optional(),
});
export type Measure = z.infer<typeof Measure>;
