import CalendarDays from 'lucide-react/icons/calendar-days';
import { type ComponentProps, lazy, Suspense, useState } from 'react';
import { formatDate } from '#core/value/format/format.ts';
import { dayOf } from '#core/value/period/period.ts';
import { typedDay } from '#core/value/period/typed-day.ts';
import { IconButton } from './button.tsx';
import { Popover } from './popover.tsx';

/** A calendar is large, and few open one. */
const DayCalendar = lazy(() =>
  import('./day-calendar.tsx').then((module) => ({ default: module.DayCalendar })),
);

/** A day, typed as people write it or chosen in a calendar: ISO 8601, or what was typed where that is no day; null is blank. */
export function DayInput({
  value,
  zone,
  onChange,
  className = '',
  ...named
}: {
  value: string | null;
  zone: string;
  onChange: (value: string | null) => void;
} & Omit<ComponentProps<'input'>, 'value' | 'onChange' | 'ref'>) {
  const today = dayOf(new Date(), zone);
  const dayIn = (text: string): string => typedDay(text, today.slice(0, 4)) ?? '';
  const written = (text: string | null): string =>
    text && dayIn(text) !== '' ? formatDate(dayIn(text)) : (text ?? '');
  const [text, setText] = useState(written(value));
  const [open, setOpen] = useState(false);
  const put = (typed: string): void => {
    setText(typed);
    onChange(typed.trim() === '' ? null : dayIn(typed) || typed);
  };
  return (
    <span className="flex min-w-0 flex-1 items-center gap-1">
      <input
        {...named}
        className={className}
        placeholder="23 Nov 2026"
        value={text}
        onChange={(event) => put(event.target.value)}
      />
      <Popover
        label="Calendar"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <IconButton name="Choose in a calendar">
            <CalendarDays className="size-4" />
          </IconButton>
        }
      >
        <Suspense fallback={<p className="text-muted">Loading …</p>}>
          <DayCalendar
            day={dayIn(text)}
            today={today}
            onChoose={(day) => {
              put(formatDate(day));
              setOpen(false);
            }}
          />
        </Suspense>
      </Popover>
    </span>
  );
}

/** A moment by the clocks of a zone: a day and a time, `YYYY-MM-DDTHH:MM`, or what was typed where it is none; null is blank. */
export function MomentInput({
  value,
  zone,
  onChange,
  className = '',
  ...named
}: ComponentProps<typeof DayInput>) {
  const [given = '', clock = ''] = (value ?? '').split('T');
  const [day, setDay] = useState<string | null>(given || null);
  const [time, setTime] = useState(clock.slice(0, 5));
  const put = (nextDay: string | null, nextTime: string): void => {
    setDay(nextDay);
    setTime(nextTime);
    onChange(nextDay === null && nextTime === '' ? null : `${nextDay ?? ''}T${nextTime || '00:00'}`);
  };
  return (
    <span className="flex min-w-0 flex-1 items-center gap-1">
      <DayInput
        {...named}
        value={day}
        zone={zone}
        onChange={(next) => put(next, time)}
        className={className}
      />
      <input
        aria-label="Time"
        placeholder="09:30"
        className={`${className} max-w-20`}
        value={time}
        onChange={(event) => put(day, event.target.value)}
      />
    </span>
  );
}
