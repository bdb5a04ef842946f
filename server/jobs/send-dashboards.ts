import { sendDue } from '../sending/send.ts';
import type { Job } from './job.ts';

/** Sends the dashboards that are due by mail. */
export const sendDashboards: Job = {
  name: 'send-dashboards',
  every: '* * * * *',
  atOnce: 1,
  pause: 5,
  within: 1800,
  retries: 0,
  run: (_, { signal }) => sendDue(new Date(), signal),
};
