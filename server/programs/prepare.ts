import { fillDemo, runDemoClock } from '#demo/fill.ts';
import { demoPassword, demoPeople } from '#demo/people.ts';
import { tidyCache } from '../kept/cache.ts';
import { settings } from '../settings.ts';
import { migrateDatabase } from '../store/database.ts';
import { endAll } from './end.ts';
import { standInAccess } from './stand-in-access.ts';

/** Brings the database up to date and fills the demo where there is nothing yet; gives what ends the demo's clock. */
export async function prepare(say: (line: string) => void): Promise<() => Promise<void>> {
  const { SLATE_DEMO } = settings();
  await migrateDatabase();
  let stopClock = (): void => undefined;
  if (SLATE_DEMO) {
    say('Filling the demo where it is empty …');
    await fillDemo(SLATE_DEMO, new Date(), await standInAccess());
    stopClock = await runDemoClock(SLATE_DEMO);
  }
  tidyCache();
  return async () => {
    stopClock();
    await endAll();
  };
}

/** What the start command says of the demo, on the line with the address. */
export const demoLines = (): string =>
  settings().SLATE_DEMO
    ? `— sign in as ${demoPeople.map(({ email }) => email).join(', ')}; password ${demoPassword}`
    : '';
