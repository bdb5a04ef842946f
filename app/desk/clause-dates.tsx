import { useEffect, useRef, useState } from 'react';
import type { Period } from '#core/period/schema.ts';
import { type Unit, units } from '#core/period/units.ts';
import { usualPeriods } from '#core/period/usual.ts';
import { periodSentence } from '#core/words/period.ts';
import { Button } from '../ui/button.tsx';
import { SelectField, TextField } from '../ui/field.tsx';
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
    <>
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
      <Fixed now={now} onChoose={choose} />
    </>
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
      className="grid grid-cols-[1.3fr_0.7fr_1fr_auto] items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        const number = Number(count);
        if (Number.isInteger(number) && number >= 1 && number <= 5000)
          onChoose({ kind, count: number, unit });
      }}
    >
      <SelectField
        label="Relative"
        value={kind}
        onChange={(event) => setKind(event.target.value as keyof typeof shapes)}
      >
        {Object.entries(shapes).map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </SelectField>
      <TextField
        label="How many"
        type="number"
        min={1}
        max={5000}
        required
        value={count}
        onChange={(event) => setCount(event.target.value)}
      />
      <SelectField label="Of" value={unit} onChange={(event) => setUnit(event.target.value as Unit)}>
        {units.map((each) => (
          <option key={each} value={each}>
            {each}s
          </option>
        ))}
      </SelectField>
      <Button type="submit">Set</Button>
    </form>
  );
}

function Fixed({ now, onChoose }: { now: Period | null; onChoose: (period: Period) => void }) {
  const [from, setFrom] = useState(now?.kind === 'dates' ? (now.from ?? '') : '');
  const [to, setTo] = useState(now?.kind === 'dates' ? (now.to ?? '') : '');
  const isBackwards = from !== '' && to !== '' && from > to;
  return (
    <form
      className="grid grid-cols-[1fr_1fr_auto] items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isBackwards && (from || to)) onChoose({ kind: 'dates', from: from || null, to: to || null });
      }}
    >
      <TextField label="From" type="date" value={from} onChange={(event) => setFrom(event.target.value)} />
      <TextField
        label="To, that day included"
        type="date"
        value={to}
        onChange={(event) => setTo(event.target.value)}
        problem={isBackwards ? 'This is before “from”.' : undefined}
      />
      <Button type="submit">Set</Button>
    </form>
  );
}
