import { z } from 'zod';
import { units } from './units.ts';

const unit = z.enum(units);
const count = z.int().min(1).max(5000);
const day = z.string().regex(/^\d{4}-\d{2}-\d{2}$/);

/**
 * A stretch of time as a person says it. Relative ones move with the clock; `dates` is fixed and names its last day
 * inclusively, as people do. Resolved to half-open [from, to) by `resolvePeriod`.
 */
export const Period = z.discriminatedUnion('kind', [
  /** N calendar units ending with the current one: "the last 28 days" holds today. Hours are counted from now. */
  z.object({ kind: z.literal('last'), count, unit }),
  /** N calendar units beginning with the current one. Hours are counted from now. */
  z.object({ kind: z.literal('next'), count, unit }),
  /** The whole current unit: "today", "this week". */
  z.object({ kind: z.literal('this'), unit }),
  /** One whole unit, N units ago: "yesterday", "the week before last". */
  z.object({ kind: z.literal('ago'), count, unit }),
  /** Longer ago than N units before this very moment. */
  z.object({ kind: z.literal('olderThan'), count, unit }),
  /** From the start of the unit N ago onward: "due from yesterday on". Zero is the current unit. */
  z.object({ kind: z.literal('onward'), count: z.int().min(0).max(5000), unit }),
  z.object({ kind: z.literal('past') }),
  z.object({ kind: z.literal('future') }),
  z.object({ kind: z.literal('dates'), from: day.nullable(), to: day.nullable() }),
]);
export type Period = z.infer<typeof Period>;
