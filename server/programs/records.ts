import { duckdb } from '#engine/columnar/duckdb.ts';
import { askAgain } from '#engine/postgres/engine.ts';
import { listen } from '../live/listen.ts';
import { serveRecords } from '../records/serve.ts';
import { endAll } from './end.ts';

/** Asks for records for the processes that serve pages, until told to stop. */
export async function startRecords(socket: string): Promise<{ stop: () => Promise<void> }> {
  const [stopServing, stopHearing] = await Promise.all([
    serveRecords(socket),
    listen('slate_changed', () => askAgain()),
  ]);
  // Before anybody waits for it.
  void duckdb();
  return {
    stop: async () => {
      await Promise.all([stopServing(), stopHearing()]);
      await endAll();
    },
  };
}
