import { createHash } from 'node:crypto';
import { and, eq, gte, notExists } from 'drizzle-orm';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { PostgresAddress } from '#engine/postgres/pool.ts';
import { Connection } from '#sources/connection.ts';
import type { ConnectionReport, WithSecret } from '#sources/kind.ts';
import { kindOf } from '#sources/registry.ts';
import { aboutChanger, open, seal } from '../secrets.ts';
import { outgoingHosts } from '../settings.ts';
import { database } from './database.ts';
import { dataSets } from './tables/data-sets.ts';
import { sources } from './tables/sources.ts';

export interface Source {
  readonly id: string;
  readonly name: string;
  readonly connection: Connection;
  /** What testing it found; null for one that is built in. */
  readonly report: ConnectionReport | null;
}

/** Sources that nobody adds, and of which there is one of a kind. */
export const isBuiltIn = (connection: Connection): boolean => kindOf(connection).adding === null;

/** Whether two sources are of one kind. */
export const isSameKind = (one: { readonly kind: string }, other: { readonly kind: string }): boolean =>
  one.kind === other.kind;

const read = (row: Pick<typeof sources.$inferSelect, 'id' | 'name' | 'connection' | 'report'>): Source => {
  const connection = Connection.parse(row.connection);
  const { facts = [], warnings = [], ...rest } = row.report as ConnectionReport;
  const report = isBuiltIn(connection) ? null : { ...rest, facts, warnings };
  return { id: row.id, name: row.name, connection, report };
};

const shown = { id: sources.id, name: sources.name, connection: sources.connection, report: sources.report };

/** Every source, without its secret. */
export async function listSources(): Promise<Source[]> {
  return (await database().select(shown).from(sources).orderBy(sources.name)).map(read);
}

export async function findSource(id: string): Promise<Source | null> {
  const [row] = await database().select(shown).from(sources).where(eq(sources.id, id)).limit(1);
  return row ? read(row) : null;
}

/** Adds a proved source. The id comes with the form, so that a form sent twice adds one source. */
export async function addSource(source: Source & { secret: string; madeBy: string | null }): Promise<void> {
  const { secret, ...rest } = source;
  await database()
    .insert(sources)
    .values({ ...rest, secret: seal(secret, source.id) })
    .onConflictDoNothing();
}

/** The id of the one source of a kind that nobody adds; null while there is none. */
export const findBuiltInSource = async (connection: Connection): Promise<string | null> =>
  (await listSources()).find((source) => isSameKind(source.connection, connection))?.id ?? null;

/** The one source of a kind that nobody adds; made when it is first needed, and once however many need it at the same moment. */
export async function builtInSource(connection: Connection, madeBy: string | null): Promise<string> {
  const known = await findBuiltInSource(connection);
  if (known) return known;
  const id = builtInId(connection);
  const name = kindOf(connection).label;
  await database()
    .insert(sources)
    .values({ id, name, connection, secret: seal('', id), report: {}, madeBy })
    .onConflictDoNothing();
  return id;
}

/** The same for a kind wherever it is asked (RFC 9562, version 8). */
function builtInId({ kind }: Connection): string {
  const hex = createHash('sha256').update(`built-in source ${kind}`).digest('hex');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}

/**
 * Changes how a source is reached; a secret that is not given stays as it is. Who changes its records has to be said again where it is
 * another place by now: their secret was not meant for that one.
 */
export async function changeSource(
  id: string,
  change: { name: string; connection: Connection; report: ConnectionReport; secret: string | null },
): Promise<void> {
  const { secret, ...rest } = change;
  const before = await findSource(id);
  const placesOf = (connection: Connection): string => kindOf(connection).secretPlaces(connection);
  const isSamePlace = before !== null && placesOf(before.connection) === placesOf(change.connection);
  await database()
    .update(sources)
    .set({
      ...rest,
      ...(secret === null ? {} : { secret: seal(secret, id) }),
      ...(isSamePlace ? {} : { changer: null, changerSecret: null }),
    })
    .where(eq(sources.id, id));
  opened.delete(id);
}

/** Sources with credentials, kept in memory for a little so that a pane does not cost a look-up each time. */
const opened = new Map<string, { source: Promise<WithSecret>; until: number }>();
const keptMs = 10_000;

/** A source with its credential. Panes that ask at once share one look-up; one that fails is not kept. */
export function sourceWithSecret(id: string): Promise<WithSecret> {
  const known = opened.get(id);
  if (known && known.until > performance.now()) return known.source;
  const source = readSource(id);
  opened.set(id, { source, until: performance.now() + keptMs });
  source.catch(() => opened.delete(id));
  return source;
}

async function readSource(id: string): Promise<WithSecret> {
  const [row] = await database().select().from(sources).where(eq(sources.id, id)).limit(1);
  if (!row)
    throw new ProblemError({
      code: 'missing',
      doing: 'finding the source',
      why: 'the source no longer exists',
      mend: 'Choose another source in the data set.',
    });
  return {
    id,
    connection: Connection.parse(row.connection),
    secret: open(row.secret, id),
    ...(row.changer !== null && row.changerSecret
      ? { changer: { user: row.changer, secret: open(row.changerSecret, aboutChanger(id)) } }
      : {}),
  };
}

/** Says who changes the records of a source, with a secret; null: nobody any more. */
export async function setChanger(
  id: string,
  changer: { readonly user: string; readonly secret: string } | null,
): Promise<void> {
  await database()
    .update(sources)
    .set({
      changer: changer?.user ?? null,
      changerSecret: changer ? seal(changer.secret, aboutChanger(id)) : null,
    })
    .where(eq(sources.id, id));
  opened.delete(id);
}

/** Notes that records of a source are others now: what was fetched of it before is not what is there. */
export async function noteChanged(id: string): Promise<void> {
  await database().update(sources).set({ changedAt: new Date() }).where(eq(sources.id, id));
}

/** Whether records of a source were changed from here at a moment or later. */
export async function wasChangedSince(id: string, moment: Date): Promise<boolean> {
  const [row] = await database()
    .select({ id: sources.id })
    .from(sources)
    .where(and(eq(sources.id, id), gte(sources.changedAt, moment)))
    .limit(1);
  return row !== undefined;
}

/** Who changes the records of a source; null where nobody may. */
export async function changerOf(id: string): Promise<string | null> {
  const [row] = await database()
    .select({ changer: sources.changer })
    .from(sources)
    .where(eq(sources.id, id))
    .limit(1);
  return row?.changer ?? null;
}

/** Where and as whom to reach a database that plans run on; null for a source of another kind. */
export async function liveAddress(id: string): Promise<PostgresAddress | null> {
  const { connection, secret } = await sourceWithSecret(id);
  return kindOf(connection).live?.(connection, secret, outgoingHosts()) ?? null;
}

/** Removes a source that no data set asks any more; false where one does. One question, so that none is made meanwhile. */
export async function removeSource(id: string): Promise<boolean> {
  const removed = await database()
    .delete(sources)
    .where(
      and(
        eq(sources.id, id),
        notExists(database().select().from(dataSets).where(eq(dataSets.sourceId, sources.id))),
      ),
    )
    .returning({ id: sources.id });
  return removed.length > 0;
}

/** The names of the data sets that ask a source. */
export async function usersOfSource(id: string): Promise<{ id: string; name: string }[]> {
  return database()
    .select({ id: dataSets.id, name: dataSets.name })
    .from(dataSets)
    .where(eq(dataSets.sourceId, id))
    .orderBy(dataSets.name);
}
