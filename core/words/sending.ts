const days = ['Sundays', 'Mondays', 'Tuesdays', 'Wednesdays', 'Thursdays', 'Fridays', 'Saturdays'];
/** As weeks begin here. */
const week = [1, 2, 3, 4, 5, 6, 0];

/** The days on which something can be sent: their numbers as cron has them, and their names. */
export const sendingDays = week.map((number) => ({ number, name: days[number] ?? '' }));

/** Cron's five fields for a time of some days; all days: every day. `at` is HH:MM. */
export function cronOf(at: string, on: readonly number[]): string {
  const [hour = '0', minute = '0'] = at.split(':');
  const some =
    on.length === 0 || on.length === days.length ? '*' : week.filter((day) => on.includes(day)).join(',');
  return `${Number(minute)} ${Number(hour)} * * ${some}`;
}

/** When something is sent, in words: "on Mondays and Fridays at 07:30". */
export function sendingWords(cron: string): string {
  const [minute = '0', hour = '0', , , on = '*'] = cron.split(' ');
  const at = `${hour.padStart(2, '0')}:${minute.padStart(2, '0')}`;
  const numbers = on.split(',').map(Number);
  if (on === '*') return `every day at ${at}`;
  if (on === '1,2,3,4,5') return `from Monday to Friday at ${at}`;
  const names = numbers.map((number) => days[number] ?? '');
  const list = names.length === 1 ? names[0] : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;
  return `on ${list} at ${at}`;
}
