import { useEffect, useRef, useState } from 'react';
import { useFetcher, useLocation } from 'react-router';
import type { Test } from '#core/condition/schema.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import type { Cell } from '#core/field/value.ts';
import { parseValue } from '#core/field/value.ts';
import { formatCell, formatNumber } from '#core/format/format.ts';
import type { Period } from '#core/period/schema.ts';
import { type Unit, units } from '#core/period/units.ts';
import type { Problem } from '#core/problem/problem.ts';
import { periodSentence } from '#core/words/period.ts';
import type { ClauseValues } from '#server/panes/values.ts';
import { Button } from '../ui/button.tsx';
import { CheckField, SelectField, TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { useDesk } from './desk-context.ts';

interface Props {
  readonly clause: Clause;
  readonly test: Test | null;
  /** Undefined gives the clause back its initial test. */
  readonly onSet: (test: Test | null | undefined) => void;
  readonly onDone: () => void;
}

type Found = { ok: true; found: ClauseValues } | { ok: false; problem: Problem };

/** The control behind a clause, by what it offers. */
export function ClauseControl(props: Props) {
  const { clause, onSet, onDone, test } = props;
  return (
    <div className="flex flex-col gap-3">
      {clause.offer === 'values' && <Values {...props} />}
      {clause.offer === 'text' && <Text {...props} />}
      {clause.offer === 'number' && <Numbers {...props} />}
      {clause.offer === 'dates' && <Dates {...props} />}
      <div className="flex gap-2 border-t border-hair pt-3">
        <Button
          disabled={test === null}
          onClick={() => {
            onSet(null);
            onDone();
          }}
        >
          {clause.offer === 'dates' ? 'At any time' : `Any ${clause.many}`}
        </Button>
        {clause.initially && (
          <Button
            look="quiet"
            onClick={() => {
              onSet(undefined);
              onDone();
            }}
          >
            As it was at first
          </Button>
        )}
      </div>
    </div>
  );
}

function useValues(clause: Clause, find: string): Found | undefined {
  const { view } = useDesk();
  const { search } = useLocation();
  const fetcher = useFetcher<Found>();
  const { load } = fetcher;
  useEffect(() => {
    const params = new URLSearchParams(search);
    params.delete('_drill');
    params.set('_clause', clause.name);
    if (view.draft) params.set('_draft', '1');
    if (find) params.set('_find', find);
    const timer = setTimeout(() => void load(`/view/${view.id}/values?${params}`), find ? 200 : 0);
    return () => clearTimeout(timer);
  }, [clause.name, find, load, search, view.id, view.draft]);
  return fetcher.data;
}

/** Values that exist, with counts under the other clauses; several at once. */
function Values({ clause, test, onSet }: Props) {
  const { context, zone } = useDesk();
  const [find, setFind] = useState('');
  const answer = useValues(clause, find);
  const [chosen, setChosen] = useState<readonly (string | null)[]>(test?.op === 'is' ? test.values : []);
  const field = context.dataSets.get(clause.dataSet)?.fields.find(({ name }) => name === clause.field) ?? {
    type: 'text' as const,
  };
  const keyOf = (value: Cell): string | null => (value === null ? null : String(value));
  const same = (a: string | null, b: string | null): boolean => a?.toLowerCase() === b?.toLowerCase();
  const has = (value: string | null): boolean => chosen.some((each) => same(each, value));
  const toggle = (value: string | null): void => {
    const next = has(value) ? chosen.filter((each) => !same(each, value)) : [...chosen, value];
    setChosen(next);
    onSet(next.length === 0 ? null : { op: 'is', values: [...next] });
  };
  const found = answer?.ok ? answer.found : null;
  // What is chosen stays in sight even where nothing has that value now.
  const gone =
    found && !find
      ? chosen.filter((value) => !found.values.some((each) => same(keyOf(each.value), value)))
      : [];
  const rows = [...gone.map((value) => ({ value: value as Cell, count: '0' })), ...(found?.values ?? [])];
  return (
    <>
      <TextField
        label={`Find among ${clause.many}`}
        value={find}
        onChange={(event) => setFind(event.target.value)}
        autoFocus
      />
      {answer && !answer.ok && <ProblemMessage problem={answer.problem} />}
      {!answer && <p className="text-muted">Looking …</p>}
      <ul className="flex max-h-72 flex-col gap-0.5 overflow-auto">
        {rows.map(({ value, count }) => (
          <li key={String(keyOf(value))}>
            <CheckField
              checked={has(keyOf(value))}
              onChange={() => toggle(keyOf(value))}
              label={
                <span className="flex justify-between gap-3">
                  <span className={`truncate ${value === null ? 'text-muted' : ''}`}>
                    {value === null ? 'blank' : formatCell(value, field, zone)}
                  </span>
                  <span className="figures text-muted">{formatNumber(count)}</span>
                </span>
              }
            />
          </li>
        ))}
      </ul>
      {found?.more && <p className="text-small text-muted">There are more: type a part of the name.</p>}
      {found && rows.length === 0 && <p className="text-muted">None of that name.</p>}
    </>
  );
}

function Text({ clause, test, onSet, onDone }: Props) {
  const op = test && 'text' in test ? test.op : 'contains';
  const [how, setHow] = useState<string>(op);
  const [text, setText] = useState(test && 'text' in test ? test.text : '');
  const known = ['contains', 'startsWith', 'endsWith', 'lacks'] as const;
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const chosen = known.find((each) => each === how) ?? 'contains';
        onSet(text === '' ? null : { op: chosen, text });
        onDone();
      }}
    >
      <SelectField
        label={`Where ${clause.many}`}
        value={how}
        onChange={(event) => setHow(event.target.value)}
      >
        <option value="contains">contains</option>
        <option value="startsWith">starts with</option>
        <option value="endsWith">ends with</option>
        <option value="lacks">does not contain</option>
      </SelectField>
      <TextField
        label="Text"
        value={text}
        maxLength={500}
        onChange={(event) => setText(event.target.value)}
        autoFocus
      />
      <Button type="submit" look="main" className="self-start">
        Apply
      </Button>
    </form>
  );
}

/** At least, at most, or between; the range that there is stands beside. */
function Numbers({ clause, test, onSet, onDone }: Props) {
  const { context, zone } = useDesk();
  const field = context.dataSets.get(clause.dataSet)?.fields.find(({ name }) => name === clause.field);
  const answer = useValues(clause, '');
  const [least, setLeast] = useState(
    test?.op === 'atLeast' ? test.value : test?.op === 'between' ? test.from : '',
  );
  const [most, setMost] = useState(
    test?.op === 'atMost' ? test.value : test?.op === 'between' ? test.to : '',
  );
  const [problem, setProblem] = useState<{ least?: string; most?: string }>({});
  const found = answer?.ok ? answer.found : null;
  const type = field?.type ?? 'decimal';
  const unit = field?.unit ? ` (${field.unit})` : '';
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const [from, to] = [least, most].map((text) => (text.trim() === '' ? null : parseValue(type, text)));
        const wrong = {
          ...(from && !from.ok ? { least: from.why } : {}),
          ...(to && !to.ok ? { most: to.why } : {}),
        };
        setProblem(wrong);
        if (Object.keys(wrong).length > 0) return;
        const [a, b] = [from?.ok ? from.value : null, to?.ok ? to.value : null];
        if (a !== null && b !== null) onSet({ op: 'between', from: a, to: b });
        else if (a !== null) onSet({ op: 'atLeast', value: a });
        else onSet(b === null ? null : { op: 'atMost', value: b });
        onDone();
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label={`At least${unit}`}
          inputMode="decimal"
          value={least}
          onChange={(event) => setLeast(event.target.value)}
          problem={problem.least}
          autoFocus
        />
        <TextField
          label={`At most${unit}`}
          inputMode="decimal"
          value={most}
          onChange={(event) => setMost(event.target.value)}
          problem={problem.most}
        />
      </div>
      {found && field && (
        <p className="figures text-small text-muted">
          There are values from {formatCell(found.least, field, zone)} to{' '}
          {formatCell(found.greatest, field, zone)}.
        </p>
      )}
      <Button type="submit" look="main" className="self-start">
        Apply
      </Button>
    </form>
  );
}

const usual: readonly Period[] = [
  { kind: 'this', unit: 'day' },
  { kind: 'ago', count: 1, unit: 'day' },
  { kind: 'last', count: 7, unit: 'day' },
  { kind: 'last', count: 28, unit: 'day' },
  { kind: 'this', unit: 'week' },
  { kind: 'this', unit: 'month' },
  { kind: 'last', count: 12, unit: 'month' },
];

const shapes = {
  last: 'the last',
  next: 'the next',
  olderThan: 'longer ago than',
  onward: 'from the start of',
} as const;

/** Relative dates, which move with the clock and say what they are now; and fixed ones. */
function Dates({ test, onSet, onDone }: Props) {
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
        {usual.map((period, index) => {
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
