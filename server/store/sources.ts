import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { z } from 'zod';
import { ProblemError } from '#core/problem/problem.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { addressOf, PostgresConnection } from '#sources/postgres/connection.ts';
import type { Proof } from '#sources/postgres/prove.ts';
import { open, seal } from '../secrets.ts';
import { database } from './database.ts';
import { dataSets, sources } from './tables.ts';

/** What is stored of a source in the clear, by its kind. */
const Connection = z.discriminatedUnion('kind', [
  PostgresConnection,
  z.object({ kind: z.literal('upload') }),
]);
export type Connection = z.infer<typeof Connection>;

export interface Source {
  readonly id: string;
  readonly name: string;
  readonly connection: Connection;
  /** What proving it found; files need no proof. */
  readonly proof: Proof | null;
}

const read = (row: Pick<typeof sources.$inferSelect, 'id' | 'name' | 'connection' | 'proof'>): Source => {
  const connection = Connection.parse(row.connection);
  const proof = connection.kind === 'upload' ? null : (row.proof as Proof);
  return { id: row.id, name: row.name, connection, proof };
};

const shown = { id: sources.id, name: sources.name, connection: sources.connection, proof: sources.proof };

/** Every source, without its secret. */
export async function listSources(): Promise<Source[]> {
  return (await database().select(shown).from(sources).orderBy(sources.name)).map(read);
}

export async function findSource(id: string): Promise<Source | null> {
  const [row] = await database().select(shown).from(sources).where(eq(sources.id, id)).limit(1);
  return row ? read(row) : null;
}

/** Adds a proved source. The id comes with the form, so that a form sent twice adds one source. */
export async function addSource(source: Source & { password: string; madeBy: string | null }): Promise<void> {
  const { password, ...rest } = source;
  await database()
    .insert(sources)
    .values({ ...rest, secret: seal(password, source.id) })
    .onConflictDoNothing();
}

/** The source that uploaded files belong to; made when the first file is accepted. */
export async function uploadSource(madeBy: string): Promise<string> {
  const find = async (): Promise<string | undefined> =>
    (await listSources()).find(({ connection }) => connection.kind === 'upload')?.id;
  const known = await find();
  if (known) return known;
  const id = randomUUID();
  await database()
    .insert(sources)
    .values({
      id,
      name: 'Uploaded files',
      connection: { kind: 'upload' },
      secret: seal('', id),
      proof: {},
      madeBy,
    });
  return id;
}

/** Addresses with credentials, kept in memory for a little so that a pane does not cost a look-up each time. */
const addresses = new Map<string, { address: Promise<PostgresAddress>; until: number }>();
const keptMs = 10_000;

/**
 * Where and as whom to reach a source. Panes that ask at once share one look-up; one that fails is not kept. Throws a
 * {@link ProblemError} when the source has gone.
 */
export function sourceAddress(id: string): Promise<PostgresAddress> {
  const known = addresses.get(id);
  if (known && known.until > Date.now()) return known.address;
  const address = readAddress(id);
  addresses.set(id, { address, until: Date.now() + keptMs });
  address.catch(() => addresses.delete(id));
  return address;
}

async function readAddress(id: string): Promise<PostgresAddress> {
  const [row] = await database().select().from(sources).where(eq(sources.id, id)).limit(1);
  if (!row)
    throw new ProblemError({
      code: 'missing',
      doing: 'finding the source',
      why: 'the source is gone',
      mend: 'Choose another source in the data set.',
    });
  const connection = Connection.parse(row.connection);
  if (connection.kind === 'postgres') return addressOf(connection, open(row.secret, id));
  throw new ProblemError({
    code: 'missing',
    doing: 'finding the source',
    why: 'uploaded files are no database that could be asked',
    mend: 'Their records are kept; look at the data sets made of them.',
  });
}

/** The names of the data sets that ask a source. */
export async function usersOfSource(id: string): Promise<{ id: string; name: string }[]> {
  return database()
    .select({ id: dataSets.id, name: dataSets.name })
    .from(dataSets)
    .where(eq(dataSets.sourceId, id))
    .orderBy(dataSets.name);
}
