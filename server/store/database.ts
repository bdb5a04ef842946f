import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { tolerate } from '#engine/postgres/pool.ts';
import { settings } from '../settings.ts';

interface Opened {
  readonly pool: pg.Pool;
  readonly database: NodePgDatabase;
}

let opened: Opened | null = null;

function open(): Opened {
  if (!opened) {
    const pool = new pg.Pool({
      connectionString: settings().SLATE_DATABASE,
      max: 10,
      application_name: 'slate-glass',
    } as pg.PoolConfig);
    tolerate(pool);
    opened = { pool, database: drizzle(pool) };
  }
  return opened;
}

/** The pool itself, for libraries that bring their own statements. */
export const databasePool = (): pg.Pool => open().pool;

/** Our own database, through one pool of connections for the process. */
export const database = (): NodePgDatabase => open().database;

/**
 * Does work in one transaction: all of it, or none when it throws. The connection goes back to the pool whatever happens;
 * Drizzle's own transaction on a pool keeps it for ever when the connection is lost before the transaction has begun.
 */
export async function inTransaction<T>(work: (tx: NodePgDatabase) => Promise<T>): Promise<T> {
  const client = await open().pool.connect();
  let isSound = false;
  try {
    const result = await drizzle(client).transaction(work);
    isSound = true;
    return result;
  } finally {
    // After a failure nobody knows what the connection is in the middle of.
    client.release(!isSound);
  }
}

/** Brings the tables up to date. Safe to call from several processes: drizzle takes each migration in a transaction. */
export const migrateDatabase = (): Promise<void> => migrate(database(), { migrationsFolder: 'drizzle' });

export async function closeDatabase(): Promise<void> {
  const ending = opened;
  opened = null;
  await ending?.pool.end();
}
