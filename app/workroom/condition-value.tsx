import type { Test } from '#core/ask/condition/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { labelOf, typingOf } from '#core/value/field/value.ts';
import { type Unit, units } from '#core/value/period/units.ts';
import { personWords } from '#core/words/condition.ts';
import { ChoiceBox } from '../ui/choice.tsx';
import { smallBox } from '../ui/field.tsx';
import { againstTest, canBeAgainst, canonical, opOf, withOp } from './condition-draft.ts';
import { ValuePick } from './value-pick.tsx';

/** What a field is compared with: a value, another field, an input, or who is signed in. */
export function Compared({
  name,
  type,
  test,
  fields,
  inputs,
  onChange,
}: {
  name: string;
  type: FieldType;
  test: Test;
  fields: readonly Field[];
  inputs: readonly string[];
  onChange: (test: Test) => void;
}) {
  const op = opOf(test);
  if (!canBeAgainst(op)) return null;
  const others = fields.filter((field) => field.type === type && field.name !== name);
  const to = test.op === 'against' ? test.to : null;
  const value = !to
    ? 'value'
    : 'field' in to
      ? `field ${to.field}`
      : 'input' in to
        ? `input ${to.input}`
        : 'theirs' in to
          ? 'theirs'
          : `person ${to.person}`;
  const choose = (chosen: string): void => {
    const [kind = '', ...rest] = chosen.split(' ');
    const what = rest.join(' ');
    if (kind === 'field') onChange(againstTest(op, { field: what }));
    else if (kind === 'input') onChange(againstTest(op, { input: what }));
    else if (kind === 'theirs') onChange(againstTest(op, { theirs: labelOf({ name }) }));
    else if (kind === 'person') onChange(againstTest(op, { person: what === 'name' ? 'name' : 'email' }));
    else onChange(withOp({ op: 'is', values: [] }, op));
  };
  return (
    <ChoiceBox
      aria-label="Compared with"
      className={`${smallBox} w-36`}
      value={value}
      onChange={choose}
      choices={[
        { value: 'value', words: 'the value' },
        ...(op === 'is' || op === 'isNot' ? [{ value: 'theirs', words: 'what is theirs' }] : []),
        ...others.map((field) => ({
          value: `field ${field.name}`,
          words: labelOf(field).toLowerCase(),
        })),
        ...inputs.map((input) => ({ value: `input ${input}`, words: `the input ${input}` })),
        ...(type === 'text'
          ? [
              { value: 'person email', words: personWords.email },
              { value: 'person name', words: personWords.name },
            ]
          : []),
      ]}
    />
  );
}

/** The value that a field is compared with, or the period it is in. */
export function TestValue({
  field,
  test,
  onChange,
}: {
  field: Field;
  test: Test;
  onChange: (test: Test) => void;
}) {
  const { type } = field;
  if (test.op === 'against' && 'theirs' in test.to)
    return (
      <input
        aria-label="What is known of people"
        title="The name under which it stands on a person’s page, such as Terminal"
        className={`${smallBox} w-32`}
        maxLength={60}
        value={test.to.theirs}
        onChange={({ target }) =>
          onChange({ ...test, to: { theirs: target.value === '' ? ' ' : target.value.trimStart() } })
        }
      />
    );
  if (test.op === 'during' && 'count' in test.period) {
    const { period } = test;
    return (
      <>
        <input
          aria-label="How many"
          type="number"
          min={1}
          max={5000}
          className={`${smallBox} w-20`}
          value={period.count}
          onChange={(event) =>
            onChange({
              op: 'during',
              period: {
                ...period,
                count: Math.min(5000, Math.max(1, Math.trunc(Number(event.target.value)) || 1)),
              },
            })
          }
        />
        <UnitChoice
          unit={period.unit}
          many
          onChange={(unit) => onChange({ op: 'during', period: { ...period, unit } })}
        />
      </>
    );
  }
  if (test.op === 'during' && test.period.kind === 'this') {
    const { period } = test;
    return (
      <UnitChoice
        unit={period.unit}
        onChange={(unit) => onChange({ op: 'during', period: { ...period, unit } })}
      />
    );
  }
  if (test.op === 'during' && test.period.kind === 'dates') {
    const { period } = test;
    return (
      <>
        {(['from', 'to'] as const).map((end) => (
          <input
            key={end}
            type="date"
            aria-label={end === 'from' ? 'First day' : 'Last day'}
            className={smallBox}
            value={period[end] ?? ''}
            onChange={(event) =>
              onChange({ op: 'during', period: { ...period, [end]: event.target.value || null } })
            }
          />
        ))}
      </>
    );
  }
  if (test.op === 'between')
    return (
      <>
        {(['from', 'to'] as const).map((end) => (
          <TypedValue
            key={end}
            label={end === 'from' ? 'From' : 'To'}
            type={type}
            value={test[end]}
            onChange={(value) => onChange({ ...test, [end]: value })}
          />
        ))}
      </>
    );
  if ('values' in test)
    return (
      <ValuePick
        field={field}
        values={test.values}
        onChange={(values) => onChange({ op: test.op, values })}
      />
    );
  if ('text' in test)
    return (
      <input
        aria-label="Text"
        className={`${smallBox} w-52`}
        value={test.text}
        maxLength={500}
        onChange={(event) => onChange({ ...test, text: event.target.value })}
      />
    );
  if ('value' in test && test.op !== 'same')
    return (
      <TypedValue
        label="Value"
        type={type}
        value={test.value}
        onChange={(value) => onChange({ ...test, value })}
      />
    );
  return null;
}

/** A value of a type. What is no such value is put back as it was. */
function TypedValue({
  label,
  type,
  value,
  onChange,
}: {
  label: string;
  type: FieldType;
  value: string;
  onChange: (value: string) => void;
}) {
  const [toShown, toValue] = typingOf(type);
  return (
    <input
      aria-label={label}
      className={`${smallBox} w-28`}
      defaultValue={toShown(value)}
      onBlur={(event) => {
        const [read] = canonical(type, toValue(event.target.value));
        if (read !== undefined) onChange(read);
        else event.target.value = toShown(value);
      }}
    />
  );
}

function UnitChoice({
  unit,
  many = false,
  onChange,
}: {
  unit: Unit;
  many?: boolean;
  onChange: (unit: Unit) => void;
}) {
  return (
    <ChoiceBox
      aria-label="Unit"
      className={smallBox}
      value={unit}
      onChange={onChange}
      choices={units.map((each) => ({ value: each, words: many ? `${each}s` : each }))}
    />
  );
}
