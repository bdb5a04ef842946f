import { z } from 'zod';
import { Connection } from '#sources/connection.ts';
import type { Adding, SourceKind } from '#sources/kind.ts';
import { kindOf, sourceKinds } from '#sources/registry.ts';

/** The kinds that can be added by hand. */
export const addableKinds = Object.entries(sourceKinds)
  .filter(([, { adding }]) => adding !== null)
  .map(([name, { label }]) => ({ name: name as Connection['kind'], label }));

/** What is asked for to reach a source of a kind; null where it is made here. */
export const addingOf = ({ adding }: SourceKind): Adding<Connection> | null =>
  adding && 'form' in adding ? adding : null;

const Kind = z.enum(Object.keys(sourceKinds) as [Connection['kind'], ...Connection['kind'][]]);

/** The form that a source is added or changed with: what every kind asks, and beside it the texts of its own. */
export const SourceInput = z
  .object({
    id: z.uuid(),
    /** The source that is changed; without it one is added. */
    change: z.uuid().optional(),
    name: z.string('a name is needed').trim().min(1, 'a name is needed').max(500),
    kind: Kind,
    intent: z.enum(['prove', 'add']),
    secret: z.string().max(4000).default(''),
    path: z.string().trim().max(2000).default(''),
  })
  .catchall(z.string().trim().max(100_000))
  .transform((input, context) => {
    const { id, change, name, kind, intent, secret, path, ...form } = input;
    const about = { id, change, name, kind, intent, secret, path };
    const adding = addingOf(kindOf({ kind }));
    if (!adding) return { ...about, connection: null };
    const read = Connection.safeParse(adding.connectionOf(form));
    if (read.success) return { ...about, connection: read.data };
    for (const { path: place, message } of read.error.issues) {
      const field = adding.fieldOf?.(place) ?? place[0] ?? 'name';
      context.addIssue({ code: 'custom', message, path: [field] });
    }
    return z.NEVER;
  });

/** What a form shows of a source there is: all but its secret. */
export const formValues = (connection: Connection): Record<string, string> => ({
  kind: connection.kind,
  ...addingOf(kindOf(connection))?.saidOf(connection),
});

export const secretPlaces = (connection: Connection): string => kindOf(connection).secretPlaces(connection);
