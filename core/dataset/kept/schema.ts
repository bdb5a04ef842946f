import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';

/** When kept records are fetched again. Cron's five fields are read in the desk's time zone. */
export const Schedule = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('by hand') }),
  z.object({ kind: z.literal('minutes'), minutes: z.int().min(1).max(10_080) }),
  z.object({ kind: z.literal('cron'), text: z.string().min(1).max(100), zone: z.string().min(1).max(60) }),
]);
export type Schedule = z.infer<typeof Schedule>;

/** How a refresh changes what is kept. */
export const KeepMode = z.discriminatedUnion('kind', [
  /** All records are fetched; what was there before goes. */
  z.object({ kind: z.literal('replace') }),
  /**
   * Only records at or after the greatest value of a field so far; the latest record of each key wins. `tell`: the input by
   * which a service is told that value; one that is not told gives all its records each time.
   */
  z.object({ kind: z.literal('changed'), since: FieldName, tell: z.string().max(60).optional() }),
  /** Only records after the greatest value of a field so far; they are added. */
  z.object({ kind: z.literal('append'), since: FieldName }),
  /** Logs and what is sent to us: what is new since the last time is added, as the source itself knows it. */
  z.object({ kind: z.literal('follow') }),
]);
export type KeepMode = z.infer<typeof KeepMode>;

export const Keep = z.object({
  mode: KeepMode,
  schedule: Schedule,
  /** Records whose moment or date is older than this many days are let go. */
  forget: z.object({ field: FieldName, days: z.int().min(1).max(36_500) }).optional(),
});
export type Keep = z.infer<typeof Keep>;

/** How records are kept before anybody has said how. */
export const usualKeep: Keep = { mode: { kind: 'replace' }, schedule: { kind: 'minutes', minutes: 60 } };

/** How records that only ever come on top are kept before anybody has said how. */
export const following: Keep = { mode: { kind: 'follow' }, schedule: { kind: 'minutes', minutes: 1 } };
