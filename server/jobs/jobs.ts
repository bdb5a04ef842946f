import { checkLive } from './check-live.ts';
import { findDue } from './find-due.ts';
import type { Job } from './job.ts';
import { refreshDataSet } from './refresh-data-set.ts';
import { sendDashboards } from './send-dashboards.ts';
import { settleChangesJob } from './settle-changes.ts';
import { tidyUp } from './tidy-up.ts';

export const jobs: readonly Job[] = [
  refreshDataSet,
  findDue,
  checkLive,
  settleChangesJob,
  sendDashboards,
  tidyUp,
];
