import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import { tolerate } from '#engine/postgres/pool.ts';
import { settings } from '../settings.ts';

let pool: pg.Pool | null = null;
let known: NodePgDatabase | null = null;

/** Our own database, through one pool of connections for the process. */
export function database(): NodePgDatabase {
  if (!known) {
    pool = new pg.Pool({
      connectionString: settings().SLATE_DATABASE,
      max: 10,
      application_name: 'slate-glass',
    } as pg.PoolConfig);
    tolerate(pool);
    known = drizzle(pool);
  }
  return known;
}

/** Brings the tables up to date. Safe to call from several processes: drizzle takes each migration in a transaction. */
export const migrateDatabase = (): Promise<void> => migrate(database(), { migrationsFolder: 'drizzle' });

export async function closeDatabase(): Promise<void> {
  await pool?.end();
  pool = null;
  known = null;
}
