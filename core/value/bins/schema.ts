import { z } from 'zod';
import { farthest } from './bins.ts';

/* What ranges of numbers are, and how they are checked. */

/** How wide a range is: a decimal number above nothing, in canonical text. */
export const BinWidth = z
  .string()
  .regex(/^\d{1,30}(\.\d{1,30})?$/, 'a range is as wide as a number')
  .refine((text) => !/^0*(\.0*)?$/.test(text), 'a range is wider than nothing');

const RangeNumber = z.int().min(-farthest).max(farthest);

/**
 * Range n holds the numbers from n × width up to, and without, (n + 1) × width. All below the first range are counted in it, and
 * all above the last in that: `below` and `above` say that there are such.
 */
export const Bins = z.object({
  width: BinWidth,
  first: RangeNumber,
  last: RangeNumber,
  below: z.boolean().optional(),
  above: z.boolean().optional(),
});
export type Bins = z.infer<typeof Bins>;
