import { z } from 'zod';
import { Test } from '#core/ask/condition/schema.ts';
import { Pane } from '#core/dashboard/pane/schema.ts';
import { FieldName } from '#core/value/field/field.ts';

/** What every clause has. */
const clause = {
  /** In the address; so short, plain and unique on the dashboard. */
  name: z
    .string()
    .regex(/^[a-z][a-z0-9-]{0,39}$/)
    .refine((name) => name !== 'at' && name !== 'and', 'is taken'),
  /** "routes": said as "all routes" while nothing is chosen. */
  many: z.string().min(1).max(200),
  /** The words before the control, such as "departing". */
  lead: z.string().max(200).optional(),
  dataSet: z.uuid(),
  /** In force until the reader chooses otherwise. */
  initially: Test.optional(),
};

/** One clause of the scope line: what a reader may narrow by, or give to a request. */
export const Clause = z.discriminatedUnion('offer', [
  z.object({ ...clause, offer: z.enum(['values', 'text', 'number', 'dates']), field: FieldName }),
  /** Those whose field holds the reader's own e-mail address or name, or all. */
  z.object({ ...clause, offer: z.literal('mine'), field: FieldName, person: z.enum(['email', 'name']) }),
  /** A value that a request asks for; it narrows nothing by itself. */
  z.object({ ...clause, offer: z.literal('input'), input: FieldName }),
]);
export type Clause = z.infer<typeof Clause>;

const unique = <T>(things: readonly T[], name: (thing: T) => string): boolean =>
  new Set(things.map(name)).size === things.length;

export const Dashboard = z.object({
  version: z.literal(4),
  title: z.string().min(1).max(500),
  scope: z
    .array(Clause)
    .max(20)
    .refine((clauses) => unique(clauses, ({ name }) => name), 'two clauses have one name'),
  panes: z
    .array(Pane)
    .max(60)
    .refine((panes) => unique(panes, ({ id }) => id), 'two panes have one id'),
});
export type Dashboard = z.infer<typeof Dashboard>;
