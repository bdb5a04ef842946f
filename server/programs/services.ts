import { startStandIns } from '#stand-ins/start.ts';
import { standInAccess } from './stand-in-access.ts';

/** Starts the demo's services, which send their events to `events`. */
export async function startServices(events: string): Promise<{ stop: () => Promise<void> }> {
  const access = await standInAccess();
  if (!access) throw new Error('SLATE_STAND_INS names no file');
  return startStandIns({ ...access, events });
}
