import { leaseDue } from '../store/due.ts';
import type { Job } from './job.ts';
import { refreshDataSet } from './refresh-data-set.ts';

/**
 * Sends what is due to be refreshed. Whoever sets when a data set is due rings for it; once a minute is for what was due while
 * no worker was there, and for what was taken on and cut off.
 */
export const findDue: Job = {
  name: 'find-due',
  every: '* * * * *',
  atOnce: 1,
  pause: 1,
  within: 60,
  retries: 0,
  async run(_, { send }) {
    for (const dataSet of await leaseDue(new Date())) await send(refreshDataSet, { dataSet });
  },
};
