import { DayPicker } from 'react-day-picker';
import { enGB } from 'react-day-picker/locale';
import { calendarLook, fromCalendar, toCalendar } from './calendar.ts';

/** A calendar in which one day is chosen, as ISO 8601. */
export function DayCalendar({
  day,
  today,
  onChoose,
}: {
  day: string;
  today: string;
  onChoose: (day: string) => void;
}) {
  return (
    <DayPicker
      mode="single"
      locale={enGB}
      weekStartsOn={1}
      autoFocus
      defaultMonth={toCalendar(day || today)}
      today={toCalendar(today)}
      selected={toCalendar(day)}
      onSelect={(date) => {
        if (date) onChoose(fromCalendar(date));
      }}
      classNames={calendarLook}
    />
  );
}
