import { fillDemo, runDemoClock } from '#demo/fill.ts';
import { demoPassword, demoPeople } from '#demo/people.ts';
import { tidyCache } from '../kept/cache.ts';
import { isSetUp, newCode } from '../people/set-up.ts';
import { settings } from '../settings.ts';

import { migrateDatabase } from '../store/database.ts';
import { joinPlaces } from '../store/record-place.ts';
import { endAll } from './end.ts';
import { standInAccess } from './stand-in-access.ts';

export { basePath } from '../settings.ts';

/** Brings the database up to date and fills the demo where there is nothing yet; gives what ends the demo's clock. */
export async function prepare(say: (line: string) => void): Promise<() => Promise<void>> {
  const { SLATE_DEMO } = settings();
  await migrateDatabase();
  await joinPlaces();
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

/**
 * What the start command says on the line with the address: of the demo, or how an installation that nobody can sign in to is set up. `code`:
 * hands on the code that is asked for then to the processes that serve pages.
 */
export async function lastWords(code: (code: string) => void): Promise<string> {
  if (settings().SLATE_DEMO) return demoWords;
  if (await isSetUp()) return '';
  const made = newCode();
  code(made);
  return `— nobody can sign in yet: open /set-up there, with the code ${made}`;
}

const demoWords = `— sign in as ${demoPeople.map(({ email }) => email).join(', ')}; password ${demoPassword}`;
