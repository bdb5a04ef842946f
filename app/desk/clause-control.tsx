import { useState } from 'react';
import type { Test } from '#core/ask/condition/schema.ts';
import { clauseSubject, mineTest } from '#core/dashboard/flow/clauses.ts';
import { clauseWords } from '#core/dashboard/flow/words/scope.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import { parseValue, typingOf } from '#core/value/field/value.ts';
import { typedDay } from '#core/value/period/typed-day.ts';
import { capital } from '#core/words/capital.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { toggleValue, ValueList } from '../ui/value-list.tsx';
import { Dates } from './clause-dates.tsx';
import { Numbers } from './clause-numbers.tsx';
import { useDesk } from './desk-context.ts';
import { useClauseValues } from './use-clause-values.ts';

export interface ClauseProps {
  readonly clause: Clause;
  readonly test: Test | null;
  /** Undefined gives the clause back its initial test. */
  readonly onSet: (test: Test | null | undefined) => void;
  readonly onDone: () => void;
}

/** The control behind a clause, by what it offers. */
export function ClauseControl(props: ClauseProps) {
  const { clause, onSet, onDone, test } = props;
  const { clock } = useDesk().context;
  return (
    <div className="flex flex-col gap-3">
      {clause.offer === 'values' && <Values {...props} />}
      {clause.offer === 'text' && <Text {...props} />}
      {clause.offer === 'number' && <Numbers {...props} />}
      {clause.offer === 'dates' && <Dates {...props} />}
      {clause.offer === 'input' && <Given {...props} />}
      {clause.offer === 'mine' && (
        <Button
          look="main"
          className="self-start"
          disabled={test !== null}
          onClick={() => {
            onSet(mineTest(clause.person));
            onDone();
          }}
        >
          {capital(clauseWords(clause, mineTest(clause.person), undefined, clock))}
        </Button>
      )}
      <div className="flex gap-2 border-t border-hair pt-3">
        <Button
          disabled={test === null}
          onClick={() => {
            onSet(null);
            onDone();
          }}
        >
          {capital(clauseWords(clause, null, undefined, clock))}
        </Button>
        {clause.initially && (
          <Button
            look="quiet"
            onClick={() => {
              onSet(undefined);
              onDone();
            }}
          >
            Reset
          </Button>
        )}
      </div>
    </div>
  );
}

/** Values that exist, with counts under the other clauses; several at once. */
function Values({ clause, test, onSet }: ClauseProps) {
  const { context, clock } = useDesk();
  const [find, setFind] = useState('');
  const answer = useClauseValues(clause, find);
  const [chosen, setChosen] = useState<readonly (string | null)[]>(test?.op === 'is' ? test.values : []);
  const field = clauseSubject(clause, context.dataSets.get(clause.dataSet)) ?? { type: 'text' as const };
  const toggle = (value: string | null): void => {
    const next = toggleValue(chosen, value);
    setChosen(next);
    onSet(next.length === 0 ? null : { op: 'is', values: next });
  };
  const found = answer?.ok ? answer.found : null;
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
      {found && (
        <ValueList
          found={found.values}
          chosen={chosen}
          withChosen={!find}
          field={field}
          clock={clock}
          onToggle={toggle}
        />
      )}
      {found?.more && <p className="text-small text-muted">There are more: type a part of the name.</p>}
      {found && found.values.length === 0 && (find || chosen.length === 0) && (
        <p className="text-muted">{find ? 'None of that name.' : 'None under the rest of the sentence.'}</p>
      )}
    </>
  );
}

/** A value for a request, of the type that it asks for. */
function Given({ clause, test, onSet, onDone }: ClauseProps) {
  const { context, clock } = useDesk();
  const { type } = clauseSubject(clause, context.dataSets.get(clause.dataSet)) ?? { type: 'text' as const };
  const now = test?.op === 'is' ? (test.values[0] ?? '') : '';
  const [toShown, toValue] = typingOf(type);
  const [value, setValue] = useState(toShown(now));
  const [problem, setProblem] = useState<string>();
  const give = (text: string): void => {
    const day = type === 'date' ? typedDay(text, String(clock.now.getUTCFullYear())) : null;
    const read = parseValue(type, day ?? toValue(text));
    if (text.trim() !== '' && !read.ok) {
      setProblem(`${capital(read.why)}.`);
      return;
    }
    onSet(text.trim() === '' || !read.ok ? null : { op: 'is', values: [read.value] });
    onDone();
  };
  if (type === 'boolean')
    return (
      <SelectField
        label={capital(clause.many)}
        value={now}
        onChange={give}
        choices={[
          { value: 'true', words: 'yes' },
          { value: 'false', words: 'no' },
        ]}
      />
    );
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        give(value);
      }}
    >
      <TextField
        label={capital(clause.many)}
        hint={type === 'date' ? 'Such as 23 Nov 2026.' : undefined}
        value={value}
        maxLength={500}
        onChange={(event) => setValue(event.target.value)}
        problem={problem}
        autoFocus
      />
      <Button type="submit" look="main" className="self-start">
        Apply
      </Button>
    </form>
  );
}

function Text({ clause, test, onSet, onDone }: ClauseProps) {
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
        onChange={setHow}
        choices={[
          { value: 'contains', words: 'contains' },
          { value: 'startsWith', words: 'starts with' },
          { value: 'endsWith', words: 'ends with' },
          { value: 'lacks', words: 'does not contain' },
        ]}
      />
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
