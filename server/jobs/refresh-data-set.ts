import { z } from 'zod';
import { refresh } from '../kept/refresh.ts';
import type { Job } from './job.ts';

const Data = z.object({ dataSet: z.uuid() });

/** Refreshes the kept records of a data set. A refresh holds a lock of its own, so two of one data set never meet. */
export const refreshDataSet: Job = {
  name: 'refresh-data-set',
  every: null,
  atOnce: 2,
  pause: 0.5,
  within: 6 * 3600,
  // It throws only where it could not even be written down that it failed: our own database was away.
  retries: 3,
  async run(data, { signal, report }) {
    const { dataSet } = Data.parse(data);
    const refreshed = await refresh(dataSet, { signal });
    report(`refreshed ${dataSet}: ${refreshed.state}`, refreshed);
  },
};
