import { forgetFetched } from '../fetched/fetched.ts';
import { tidyCache } from '../kept/cache.ts';
import { forgetBatches } from '../store/intake.ts';
import { collectOrphans } from '../store/kept.ts';
import type { Job } from './job.ts';

/** Forgets what nothing refers to any more. */
export const tidyUp: Job = {
  name: 'tidy-up',
  every: '0 * * * *',
  atOnce: 1,
  pause: 5,
  within: 1800,
  retries: 0,
  async run() {
    await forgetFetched();
    await forgetBatches();
    await collectOrphans();
    tidyCache();
  },
};
