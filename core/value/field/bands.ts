import Big from 'big.js';
import { z } from 'zod';
import { tones } from './types.ts';

/* Bands: what numbers mean, from the lowest to the highest. */

/** A decimal number in canonical text, exactly. */
const Bound = z.string().regex(/^-?\d{1,60}(\.\d{1,60})?$/, 'a band begins at a number');

/**
 * A range of numbers, from its bound up to where the next one begins. The first has no bound: it begins below all. Without a
 * mark it is as it should be, or nothing is to be said of it.
 */
export const Band = z.object({
  from: Bound.optional(),
  mark: z.object({ word: z.string().min(1, 'a band needs a word').max(200), tone: z.enum(tones) }).optional(),
});
export type Band = z.infer<typeof Band>;

/** What is wrong with the bounds of bands, or null. In order and without a gap, none can overlap and no number lies in two. */
export function boundsProblem(bands: readonly { readonly from?: string | undefined }[]): string | null {
  const [first, ...others] = bands;
  if (first?.from !== undefined) return 'the first band begins below all numbers';
  const bounds = others.map(({ from }) => from);
  if (bounds.some((from) => from === undefined || !Bound.safeParse(from).success))
    return 'every band but the first begins at a number';
  const isRising = bounds.every((from, at) => at === 0 || new Big(from ?? 0).gt(bounds[at - 1] ?? 0));
  return isRising ? null : 'each band begins above the one before it';
}

/** The bands of one field or measure. */
export const Bands = z
  .array(Band)
  .max(20)
  .superRefine((bands, context) => {
    const problem = boundsProblem(bands);
    if (problem) context.addIssue({ code: 'custom', message: problem });
  });
