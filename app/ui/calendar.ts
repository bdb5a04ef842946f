/* What calendars on a page share: their days, and how they look. */

/** A day in the calendar's own terms, which are those of this browser's zone, and back. */
export const toCalendar = (day: string): Date | undefined =>
  day === '' ? undefined : new Date(`${day}T12:00:00`);
/** The day that a calendar’s date stands for; empty for none. */
export const fromCalendar = (date: Date | undefined): string =>
  date
    ? `${String(date.getFullYear()).padStart(4, '0')}-${String(date.getMonth() + 1).padStart(2, '0')}-${String(date.getDate()).padStart(2, '0')}`
    : '';

export const calendarLook = {
  root: 'relative',
  month: 'flex flex-col gap-1',
  month_caption: 'flex h-8 items-center justify-center font-strong',
  nav: 'absolute inset-x-0 top-0 z-10 flex justify-between',
  button_previous: 'inline-flex size-8 items-center justify-center hover:text-accent',
  button_next: 'inline-flex size-8 items-center justify-center hover:text-accent',
  chevron: 'size-4 fill-current',
  month_grid: 'w-full border-collapse',
  weekday: 'h-7 text-small font-normal text-muted',
  day: 'p-0 text-center',
  day_button: 'figures h-8 w-full hover:text-accent focus-visible:outline-offset-[-2px]',
  today: 'font-strong underline underline-offset-4',
  outside: 'text-muted',
  selected: 'bg-wash',
  range_start: 'bg-accent text-on-accent [&_button]:hover:text-on-accent',
  range_end: 'bg-accent text-on-accent [&_button]:hover:text-on-accent',
};
