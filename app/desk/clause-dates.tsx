import { useEffect, useRef, useState } from 'react';
import { DayPicker } from 'react-day-picker';
import { enGB } from 'react-day-picker/locale';
import { formatDate } from '#core/value/format/format.ts';
import { dayOf } from '#core/value/period/period.ts';
import type { Period } from '#core/value/period/schema.ts';
import { typedDay } from '#core/value/period/typed-day.ts';
import { type Unit, units } from '#core/value/period/units.ts';
import { usualPeriods } from '#core/value/period/usual.ts';
import { periodSentence } from '#core/words/period.ts';
import { Button } from '../ui/button.tsx';
import { calendarLook, fromCalendar, toCalendar } from '../ui/calendar.ts';
import { choicesOf } from '../ui/choice.tsx';
import { TextField } from '../ui/field.tsx';
import { SelectField } from '../ui/select-field.tsx';
import type { ClauseProps } from './clause-control.tsx';
import { useDesk } from './desk-context.ts';

const shapes = {
  last: 'the last',
  next: 'the next',
  olderThan: 'longer ago than',
  onward: 'from the start of',
} as const;

/** Relative dates, which move with the clock and say what they are now; and fixed ones. */
export function Dates({ test, onSet, onDone }: Omit<ClauseProps, 'clause'>) {
  const { context } = useDesk();
  const { clock } = context;
  const now = test?.op === 'during' ? test.period : null;
  const choose = (period: Period): void => {
    onSet({ op: 'during', period });
    onDone();
  };
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => first.current?.focus(), []);
  return (
    <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2">
      <div className="flex flex-col gap-3">
        <ul className="flex flex-col">
          {usualPeriods.map((period, index) => {
            const isNow = JSON.stringify(period) === JSON.stringify(now);
            return (
              <li key={JSON.stringify(period)}>
                <button
                  ref={index === 0 ? first : undefined}
                  type="button"
                  aria-pressed={isNow}
                  onClick={() => choose(period)}
                  className={`min-h-7 w-full rounded-[3px] px-1.5 text-left hover:bg-wash hover:text-accent ${isNow ? 'font-strong text-accent' : ''}`}
                >
                  {periodSentence(period, clock)}
                </button>
              </li>
            );
          })}
        </ul>
        <Counted now={now} onChoose={choose} />
      </div>
      <Fixed now={now} onChoose={choose} />
    </div>
  );
}

function Counted({ now, onChoose }: { now: Period | null; onChoose: (period: Period) => void }) {
  const [kind, setKind] = useState<keyof typeof shapes>(
    now && now.kind in shapes ? (now.kind as keyof typeof shapes) : 'last',
  );
  const [count, setCount] = useState(now && 'count' in now ? String(now.count) : '14');
  const [unit, setUnit] = useState<Unit>(now && 'unit' in now ? now.unit : 'day');
  return (
    <form
      className="grid grid-cols-[1.4fr_0.7fr_1.2fr_auto] items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        const number = Number(count);
        if (Number.isInteger(number) && number >= 1 && number <= 5000)
          onChoose({ kind, count: number, unit });
      }}
    >
      <SelectField label="Relative" value={kind} onChange={setKind} choices={choicesOf(shapes)} />
      <TextField
        label="Count"
        type="number"
        min={1}
        max={5000}
        required
        value={count}
        onChange={(event) => setCount(event.target.value)}
      />
      <SelectField
        label="Of"
        value={unit}
        onChange={setUnit}
        choices={units.map((each) => ({ value: each, words: `${each}s` }))}
      />
      <Button type="submit">Set</Button>
    </form>
  );
}

/** Two days, typed or picked in a calendar. */
function Fixed({ now, onChoose }: { now: Period | null; onChoose: (period: Period) => void }) {
  const { clock } = useDesk();
  const today = dayOf(clock.now, clock.zone);
  const written = (day: string | null): string => (day ? formatDate(day) : '');
  const dates = now?.kind === 'dates' ? now : { from: null, to: null };
  const [from, setFrom] = useState(written(dates.from));
  const [to, setTo] = useState(written(dates.to));
  const [first, last] = [from, to].map((text) => typedDay(text, today.slice(0, 4)) ?? '') as [string, string];
  const problemOf = (text: string, day: string): string | undefined =>
    text.trim() !== '' && day === '' ? 'Write it as 23 Nov 2026.' : undefined;
  const isBackwards = first !== '' && last !== '' && first > last;
  const isReady = !problemOf(from, first) && !problemOf(to, last) && !isBackwards && (first || last) !== '';
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (isReady) onChoose({ kind: 'dates', from: first || null, to: last || null });
      }}
    >
      <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-2">
        <TextField
          label="From"
          placeholder="23 Nov 2026"
          value={from}
          onChange={(event) => setFrom(event.target.value)}
          problem={problemOf(from, first)}
        />
        <TextField
          label="To, included"
          placeholder="27 Nov 2026"
          value={to}
          onChange={(event) => setTo(event.target.value)}
          problem={isBackwards ? 'This is before “from”.' : problemOf(to, last)}
        />
        <Button type="submit" disabled={!isReady} title={isReady ? undefined : 'Choose a day first.'}>
          Set
        </Button>
      </div>
      <DayPicker
        mode="range"
        locale={enGB}
        weekStartsOn={1}
        defaultMonth={toCalendar(last || first || today)}
        today={toCalendar(today)}
        selected={{ from: toCalendar(first), to: toCalendar(last) }}
        onSelect={(range) => {
          setFrom(written(fromCalendar(range?.from)));
          setTo(written(fromCalendar(range?.to)));
        }}
        classNames={calendarLook}
      />
    </form>
  );
}
