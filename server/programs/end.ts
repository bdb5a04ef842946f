import { endPools } from '#engine/postgres/pool.ts';
import { closeColumnar } from '../kept/open.ts';
import { closeClients } from '../sources/open.ts';
import { closeDatabase } from '../store/database.ts';

/** Closes what this process has opened of the engine, of sources and of our own database. */
export async function endAll(): Promise<void> {
  await closeColumnar();
  await closeClients();
  await endPools();
  await closeDatabase();
}
