import type { Schedule } from '#core/dataset/kept/schema.ts';

/** When kept records are fetched, in words. */
export function scheduleWords(schedule: Schedule): string {
  switch (schedule.kind) {
    case 'by hand':
      return 'only when somebody asks';
    case 'minutes': {
      const { minutes } = schedule;
      if (minutes % 1440 === 0) return minutes === 1440 ? 'every day' : `every ${minutes / 1440} days`;
      if (minutes % 60 === 0) return minutes === 60 ? 'every hour' : `every ${minutes / 60} hours`;
      return minutes === 1 ? 'every minute' : `every ${minutes} minutes`;
    }
    case 'cron':
      return `by the clock (${schedule.text})`;
  }
}
