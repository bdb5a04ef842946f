import { settleChanges } from '../change/settle.ts';
import type { Job } from './job.ts';

/** Finds out what became of changes that nobody heard the end of. */
export const settleChangesJob: Job = {
  name: 'settle-changes',
  every: '* * * * *',
  atOnce: 1,
  pause: 5,
  within: 300,
  retries: 0,
  run: () => settleChanges(new Date()),
};
