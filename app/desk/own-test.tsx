import { type ReactNode, useState } from 'react';
import type { Test } from '#core/ask/condition/schema.ts';
import type { OwnTest } from '#core/dashboard/scope/state.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric, isTemporal, labelOf, parseValue, typingOf } from '#core/value/field/value.ts';
import { dayOf } from '#core/value/period/period.ts';
import { typedDay } from '#core/value/period/typed-day.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { toggleValue, ValueList } from '../ui/value-list.tsx';
import { useDesk } from './desk-context.ts';
import { useFieldValues } from './use-clause-values.ts';

const ops = {
  text: [
    ['is', 'is'],
    ['isNot', 'is not'],
    ['contains', 'contains'],
    ['lacks', 'does not contain'],
    ['startsWith', 'starts with'],
    ['endsWith', 'ends with'],
    ['blank', 'is blank'],
    ['filled', 'is not blank'],
  ],
  number: [
    ['atLeast', 'is at least'],
    ['atMost', 'is at most'],
    ['above', 'is above'],
    ['below', 'is below'],
    ['is', 'is'],
    ['isNot', 'is not'],
    ['blank', 'is blank'],
    ['filled', 'is not blank'],
  ],
  boolean: [
    ['is', 'is'],
    ['blank', 'is blank'],
  ],
  time: [
    ['olderThan', 'is more than … days ago'],
    ['last', 'is in the last … days'],
    ['next', 'is in the next … days'],
    ['since', 'is on this day or later'],
    ['until', 'is on this day or earlier'],
    ['blank', 'is blank'],
    ['filled', 'is not blank'],
  ],
} as const;

type Op = (typeof ops)[keyof typeof ops][number][0];

/** One test of a reader's own: a field, and what is asked of it. */
export function OwnTestForm({
  onApply,
  onGoOn,
  children,
}: {
  onApply: (test: OwnTest) => void;
  /** Another test follows, which must hold as well or may hold instead. */
  onGoOn: (test: OwnTest, joined: 'and' | 'or') => void;
  /** What else can be done. */
  children: ReactNode;
}) {
  const { context, shortName, clock } = useDesk();
  const choices = [...context.dataSets].flatMap(([id, dataSet]) =>
    dataSet.fields
      .filter(({ hidden, type }) => !hidden && type !== 'nested')
      .map((field) => ({
        path: `${shortName(id)}.${field.name}`,
        dataSet: shortName(id),
        of: dataSet,
        field,
      })),
  );
  const [path, setPath] = useState(choices[0]?.path ?? '');
  const [op, setOp] = useState<Op | ''>('');
  const [value, setValue] = useState('');
  const [values, setValues] = useState<readonly (string | null)[]>([]);
  const [problem, setProblem] = useState<string>();
  const chosen = choices.find((each) => each.path === path);
  const type = chosen?.field.type ?? 'text';
  const offered =
    ops[isNumeric(type) ? 'number' : isTemporal(type) ? 'time' : type === 'boolean' ? 'boolean' : 'text'];
  const now = offered.find(([each]) => each === op)?.[0] ?? offered[0][0];
  const isDay = now === 'since' || now === 'until';
  const needsValue = now !== 'blank' && now !== 'filled';
  const isListed = (now === 'is' || now === 'isNot') && chosen !== undefined;
  const read = (): OwnTest | null => {
    if (!chosen) return null;
    const test =
      isListed && values.length > 0
        ? { op: now, values: [...values] }
        : testFrom(now, type, value, dayOf(clock.now, clock.zone));
    if (typeof test === 'string') {
      setProblem(test);
      return null;
    }
    setProblem(undefined);
    return { dataSet: chosen.dataSet, field: chosen.field.name, test };
  };
  const goOn = (joined: 'and' | 'or'): void => {
    const test = read();
    if (!test) return;
    onGoOn(test, joined);
    setValue('');
    setValues([]);
  };
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        const test = read();
        if (test) onApply(test);
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Where"
          value={path}
          onChange={(chosen) => {
            setPath(chosen);
            setValues([]);
            setValue('');
          }}
          choices={choices.map((each) => ({
            value: each.path,
            words: `${context.dataSets.size > 1 ? `${each.of.noun.one}: ` : ''}${labelOf(each.field).toLowerCase()}`,
          }))}
        />
        <SelectField
          label="Test"
          value={now}
          onChange={setOp}
          choices={offered.map(([each, words]) => ({ value: each, words }))}
        />
      </div>
      {needsValue && (
        <TextField
          label={isDay ? 'Day' : isTemporal(type) ? 'Days' : isListed ? 'Find or type a value' : 'Value'}
          value={value}
          placeholder={isDay ? '23 Nov 2026' : undefined}
          maxLength={500}
          onChange={(event) => setValue(event.target.value)}
          problem={problem}
        />
      )}
      {isListed && (
        <Offered
          key={chosen.path}
          path={chosen.path}
          field={chosen.field}
          find={value}
          chosen={values}
          onToggle={(each) => setValues(toggleValue(values, each))}
        />
      )}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="main">
          Apply
        </Button>
        <Button onClick={() => goOn('and')}>And …</Button>
        <Button onClick={() => goOn('or')}>Or …</Button>
        {children}
      </div>
    </form>
  );
}

/** The values that a field has under the rest of the sentence, with how many records have each. */
function Offered({
  path,
  field,
  find,
  chosen,
  onToggle,
}: {
  path: string;
  field: Field;
  find: string;
  chosen: readonly (string | null)[];
  onToggle: (value: string | null) => void;
}) {
  const { clock } = useDesk();
  const answer = useFieldValues(path, find.trim());
  if (!answer) return <p className="text-small text-muted">Looking …</p>;
  if (!answer.ok) return <ProblemMessage problem={answer.problem} />;
  const { values, more } = answer.found;
  return (
    <>
      <ValueList
        found={values}
        chosen={chosen}
        withChosen={!find.trim()}
        field={field}
        clock={clock}
        onToggle={onToggle}
      />
      {more && <p className="text-small text-muted">There are more: type a part of one.</p>}
    </>
  );
}

/** The test that was filled in, or why it is none. */
function testFrom(op: Op, type: FieldType, value: string, today: string): Test | string {
  if (op === 'blank' || op === 'filled') return { op };
  if (op === 'since' || op === 'until') {
    const day = typedDay(value, today.slice(0, 4));
    if (!day) return 'Write it as 23 Nov 2026.';
    const ends = { from: op === 'since' ? day : null, to: op === 'until' ? day : null };
    return { op: 'during', period: { kind: 'dates', ...ends } };
  }
  if (op === 'olderThan' || op === 'last' || op === 'next') {
    const count = Number(value);
    if (!Number.isInteger(count) || count < 1 || count > 5000) return 'This needs a whole number of days.';
    return { op: 'during', period: { kind: op, count, unit: 'day' } };
  }
  if (value.trim() === '') return 'This needs a value.';
  if (op === 'contains' || op === 'lacks' || op === 'startsWith' || op === 'endsWith')
    return { op, text: value };
  const [, toValue] = typingOf(type);
  const parsed = parseValue(type, toValue(value));
  if (!parsed.ok) return parsed.why;
  return op === 'is' || op === 'isNot' ? { op, values: [parsed.value] } : { op, value: parsed.value };
}
