import { problemOf } from '#core/value/problem/problem.ts';
import { runChecks } from '../checks/run.ts';
import { allDataSets } from '../store/data-sets.ts';
import type { Job } from './job.ts';

/** Tries the checks of data sets that are not kept; the others are checked at each refresh. */
export const checkLive: Job = {
  name: 'check-live',
  every: '*/10 * * * *',
  atOnce: 1,
  pause: 5,
  within: 1800,
  retries: 0,
  async run(_, { report, signal }) {
    for (const { id, name, definition } of await allDataSets()) {
      if (signal.aborted) return;
      if (definition.keep || !definition.checks?.length) continue;
      try {
        await runChecks({ id, definition, now: new Date() });
      } catch (thrown) {
        report(`checking ${name}: ${problemOf(thrown, '').why}`);
      }
    }
  },
};
