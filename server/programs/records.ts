import { serveRecords } from '../records/serve.ts';
import { endAll } from './end.ts';

/** Asks for records for the processes that serve pages, until told to stop. */
export async function startRecords(socket: string): Promise<{ stop: () => Promise<void> }> {
  const stopServing = await serveRecords(socket);
  return {
    stop: async () => {
      await stopServing();
      await endAll();
    },
  };
}
