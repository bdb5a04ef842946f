import { z } from 'zod';
import { FieldName } from '#core/value/field/field.ts';
import { Period } from '#core/value/period/schema.ts';
import { deepest, mostValues } from './limits.ts';

/** Values are canonical texts (see `parseValue`), so that 64-bit integers and decimals stay exact; null is blank. */
const value = z.string().max(2000);

export const comparisons = ['same', 'differs', 'atMost', 'atLeast', 'below', 'above'] as const;
/** What a field is compared with besides a value. An input without one restricts nothing; nobody signed in matches nothing. */
export const Against = z.union([
  z.object({ field: FieldName }),
  z.object({ input: FieldName }),
  z.object({ person: z.enum(['name', 'email']) }),
  /** Any of what is known of who is signed in under a name: “terminal is among theirs”. Nothing known matches nothing. */
  z.object({ theirs: z.string().min(1).max(60) }),
]);
export type Against = z.infer<typeof Against>;

/** One test of one field. Its words are in core/words, its SQL in core/sql. */
export const Test = z.discriminatedUnion('op', [
  /** Any of the values, text ignoring case. No values: no restriction. */
  z.object({ op: z.literal('is'), values: z.array(value.nullable()).max(mostValues) }),
  /** None of the values; blanks pass, unlike bare SQL. */
  z.object({ op: z.literal('isNot'), values: z.array(value.nullable()).max(mostValues) }),
  /** Exactly this one value, letter for letter: what a pick in a pane means. */
  z.object({ op: z.literal('same'), value: value.nullable() }),
  z.object({ op: z.literal('blank') }),
  z.object({ op: z.literal('filled') }),
  z.object({ op: z.literal('contains'), text: value }),
  z.object({ op: z.literal('lacks'), text: value }),
  z.object({ op: z.literal('startsWith'), text: value }),
  z.object({ op: z.literal('endsWith'), text: value }),
  z.object({ op: z.literal('atMost'), value }),
  z.object({ op: z.literal('atLeast'), value }),
  z.object({ op: z.literal('below'), value }),
  z.object({ op: z.literal('above'), value }),
  /** Both ends included. */
  z.object({ op: z.literal('between'), from: value, to: value }),
  z.object({ op: z.literal('during'), period: Period }),
  /** Compared with another field, an input, or who is signed in. */
  z.object({ op: z.literal('against'), is: z.enum(comparisons), to: Against }),
]);
export type Test = z.infer<typeof Test>;

export type Condition =
  | { field: string; test: Test }
  | { all: Condition[] }
  | { any: Condition[] }
  | { none: Condition[] };

const several = 200;

const depthOf = (condition: unknown, depth = 0): number => {
  if (depth > deepest || typeof condition !== 'object' || condition === null) return depth;
  const parts = Object.values(condition).flatMap((part) => (Array.isArray(part) ? part : []));
  return Math.max(depth, ...parts.map((part) => depthOf(part, depth + 1)));
};

const Nested: z.ZodType<Condition> = z.lazy(() =>
  z.union([
    z.object({ field: FieldName, test: Test }),
    z.object({ all: z.array(Nested).max(several) }),
    z.object({ any: z.array(Nested).max(several) }),
    z.object({ none: z.array(Nested).max(several) }),
  ]),
);

/** The depth is checked before the recursive schema runs, so a hostile one costs nothing. */
export const Condition: z.ZodType<Condition> = z
  .unknown()
  .refine((condition) => depthOf(condition) <= deepest, {
    message: `conditions can be nested ${deepest} levels deep, no deeper`,
    abort: true,
  })
  .pipe(Nested) as unknown as z.ZodType<Condition>;
