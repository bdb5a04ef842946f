import { Cron } from 'croner';
import type { Schedule } from './schema.ts';

const longestWaitMs = 6 * 3_600_000;

/**
 * When kept records are due again after a refresh that ended at a moment; null: only when somebody asks. After failures
 * in a row the wait doubles each time, up to six hours, and is never shorter than the schedule's own.
 */
export function nextRefresh(schedule: Schedule, ended: Date, failures: number): Date | null {
  const own = ownNext(schedule, ended);
  if (own === null || failures === 0) return own;
  const waitMs = Math.min(longestWaitMs, 60_000 * 2 ** (failures - 1));
  return new Date(Math.max(own.getTime(), ended.getTime() + waitMs));
}

function ownNext(schedule: Schedule, ended: Date): Date | null {
  switch (schedule.kind) {
    case 'by hand':
      return null;
    case 'minutes':
      return new Date(ended.getTime() + schedule.minutes * 60_000);
    case 'cron':
      return new Cron(schedule.text, { timezone: schedule.zone, paused: true }).nextRun(ended);
  }
}

/** Why a cron text or zone cannot be followed, or null. */
export function scheduleProblem(schedule: Schedule): string | null {
  if (schedule.kind !== 'cron') return null;
  if (schedule.text.trim().split(/\s+/).length !== 5)
    return 'a cron text has five fields, such as 40 6 * * 1-5';
  try {
    return ownNext(schedule, new Date(0)) === null ? 'it never comes due' : null;
  } catch (thrown) {
    return thrown instanceof Error ? thrown.message : String(thrown);
  }
}
