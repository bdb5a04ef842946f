import { X } from 'lucide-react';
import type { Condition, Test } from '#core/condition/schema.ts';
import type { Field } from '#core/field/field.ts';
import type { FieldType } from '#core/field/types.ts';
import { labelOf } from '#core/field/value.ts';
import { type Unit, units } from '#core/period/units.ts';
import { personWords } from '#core/words/condition.ts';
import { Button, IconButton } from '../ui/button.tsx';
import {
  againstTest,
  canBeAgainst,
  canonical,
  conditionOf,
  firstTest,
  type Group,
  groupOf,
  type Join,
  type One,
  opOf,
  opsOf,
  withOp,
} from './condition-draft.ts';

interface Props {
  readonly label: string;
  readonly fields: readonly Field[];
  readonly value: Condition | undefined;
  readonly onChange: (value: Condition | undefined) => void;
  /** Inputs that a field can be compared with. */
  readonly inputs?: readonly string[];
}

const box = 'min-h-8 max-w-full rounded-[4px] border border-line bg-sheet px-2 py-1 text-small text-ink';

const joins: readonly [Join, string][] = [
  ['all', 'all of these hold'],
  ['any', 'any of these holds'],
  ['none', 'none of these holds'],
];
/** Deeper groups are refused by the definition itself; offering more would only confuse. */
const deepestGroup = 3;

/** Which records are kept: tests, all or any or none of which must hold, in groups inside one another. */
export function ConditionEditor({ label, fields, value, onChange, inputs = [] }: Props) {
  const offered = fields.filter(({ type }) => type !== 'nested');
  return (
    <fieldset className="flex min-w-0 flex-col gap-2">
      <legend className="mb-1 text-small font-strong text-slate">{label}</legend>
      <GroupEditor
        group={groupOf(value)}
        fields={offered}
        inputs={inputs}
        depth={0}
        onChange={(next) => onChange(conditionOf(next))}
      />
    </fieldset>
  );
}

function GroupEditor({
  group: { join, parts },
  fields,
  inputs,
  depth,
  onChange,
}: {
  group: Group;
  fields: readonly Field[];
  inputs: readonly string[];
  depth: number;
  onChange: (next: Group) => void;
}) {
  const [start] = fields;
  const put = (next: readonly Condition[], how = join): void => onChange({ join: how, parts: next });
  const replaced = (index: number, next: Condition): void =>
    put(parts.map((part, at) => (at === index ? next : part)));
  return (
    <div className={`flex min-w-0 flex-col gap-2 ${depth > 0 ? 'border-l-2 border-hair pl-3' : ''}`}>
      {(parts.length > 1 || join === 'none' || depth > 0) && (
        <select
          aria-label="How the tests are joined"
          className={`${box} self-start`}
          value={join}
          onChange={(event) => put(parts, event.target.value as Join)}
        >
          {joins.map(([each, words]) => (
            <option key={each} value={each}>
              {words}
            </option>
          ))}
        </select>
      )}
      {parts.map((part, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: tests have no other identity than their place
        <div key={index} className="flex min-w-0 flex-wrap items-center gap-2">
          {'field' in part ? (
            <OneTest
              fields={fields}
              inputs={inputs}
              value={part}
              onChange={(next) => replaced(index, next)}
            />
          ) : (
            <div className="min-w-0 flex-1">
              <GroupEditor
                group={groupOf(part)}
                fields={fields}
                inputs={inputs}
                depth={depth + 1}
                onChange={(next) => replaced(index, conditionOf(next, true) ?? { all: [] })}
              />
            </div>
          )}
          <IconButton
            name={'field' in part ? 'Take this test away' : 'Take this group away'}
            onClick={() => put(parts.filter((_, at) => at !== index))}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      {start && (
        <div className="flex flex-wrap gap-2">
          <Button onClick={() => put([...parts, { field: start.name, test: firstTest(start) }])}>
            {parts.length === 0 ? 'Keep only some' : 'One more test'}
          </Button>
          {parts.length > 0 && depth < deepestGroup && (
            <Button
              look="quiet"
              onClick={() => put([...parts, { any: [{ field: start.name, test: firstTest(start) }] }])}
            >
              A group inside
            </Button>
          )}
        </div>
      )}
    </div>
  );
}

function OneTest({
  fields,
  inputs,
  value: { field: name, test },
  onChange,
}: {
  fields: readonly Field[];
  inputs: readonly string[];
  value: One;
  onChange: (next: One) => void;
}) {
  const field = fields.find((each) => each.name === name);
  const type = field?.type ?? 'text';
  return (
    <>
      <select
        aria-label="Field"
        className={box}
        value={name}
        onChange={(event) => {
          const next = fields.find((each) => each.name === event.target.value);
          if (next) onChange({ field: next.name, test: firstTest(next) });
        }}
      >
        {!field && <option value={name}>{name} (gone)</option>}
        {fields.map((each) => (
          <option key={each.name} value={each.name}>
            {labelOf(each).toLowerCase()}
          </option>
        ))}
      </select>
      <select
        aria-label="Test"
        className={box}
        value={opOf(test)}
        onChange={(event) => onChange({ field: name, test: withOp(test, event.target.value) })}
      >
        {opsOf(type).map(([op, words]) => (
          <option key={op} value={op}>
            {words}
          </option>
        ))}
      </select>
      <Compared
        name={name}
        type={type}
        test={test}
        fields={fields}
        inputs={inputs}
        onChange={(next) => onChange({ field: name, test: next })}
      />
      <TestValue type={type} test={test} onChange={(next) => onChange({ field: name, test: next })} />
    </>
  );
}

/** What a field is compared with: a value, another field, an input, or who is signed in. */
function Compared({
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
        : `person ${to.person}`;
  const choose = (chosen: string): void => {
    const [kind = '', ...rest] = chosen.split(' ');
    const what = rest.join(' ');
    if (kind === 'field') onChange(againstTest(op, { field: what }));
    else if (kind === 'input') onChange(againstTest(op, { input: what }));
    else if (kind === 'person') onChange(againstTest(op, { person: what === 'name' ? 'name' : 'email' }));
    else onChange(withOp({ op: 'is', values: [] }, op));
  };
  return (
    <select
      aria-label="Compared with"
      className={box}
      value={value}
      onChange={(event) => choose(event.target.value)}
    >
      <option value="value">the value</option>
      {others.map((field) => (
        <option key={field.name} value={`field ${field.name}`}>
          {labelOf(field).toLowerCase()}
        </option>
      ))}
      {inputs.map((input) => (
        <option key={input} value={`input ${input}`}>
          the input {input}
        </option>
      ))}
      {type === 'text' && (
        <>
          <option value="person email">{personWords.email}</option>
          <option value="person name">{personWords.name}</option>
        </>
      )}
    </select>
  );
}

function TestValue({
  type,
  test,
  onChange,
}: {
  type: FieldType;
  test: Test;
  onChange: (test: Test) => void;
}) {
  if (test.op === 'during' && 'count' in test.period) {
    const { period } = test;
    return (
      <>
        <input
          aria-label="How many"
          type="number"
          min={1}
          max={5000}
          className={`${box} w-20`}
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
        <select
          aria-label="Unit"
          className={box}
          value={period.unit}
          onChange={(event) =>
            onChange({ op: 'during', period: { ...period, unit: event.target.value as Unit } })
          }
        >
          {units.map((unit) => (
            <option key={unit} value={unit}>
              {unit}s
            </option>
          ))}
        </select>
      </>
    );
  }
  if (test.op === 'during' && test.period.kind === 'this') {
    const { period } = test;
    return (
      <select
        aria-label="Unit"
        className={box}
        value={period.unit}
        onChange={(event) =>
          onChange({ op: 'during', period: { ...period, unit: event.target.value as Unit } })
        }
      >
        {units.map((unit) => (
          <option key={unit} value={unit}>
            {unit}
          </option>
        ))}
      </select>
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
            className={box}
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
          <input
            key={end}
            aria-label={end === 'from' ? 'From' : 'To'}
            className={`${box} w-28`}
            defaultValue={test[end]}
            onBlur={(event) => {
              const [value] = canonical(type, event.target.value);
              if (value !== undefined) onChange({ ...test, [end]: value });
              else event.target.value = test[end];
            }}
          />
        ))}
      </>
    );
  if ('values' in test)
    return (
      <input
        aria-label="Values, separated by commas"
        title="Several values are separated by commas"
        className={`${box} w-52`}
        defaultValue={test.values.map((value) => value ?? '').join(', ')}
        onBlur={(event) =>
          onChange({
            op: test.op,
            values: event.target.value
              .split(',')
              .map((text) => text.trim())
              .filter(Boolean)
              .flatMap((text) => canonical(type, text)),
          })
        }
      />
    );
  if ('text' in test)
    return (
      <input
        aria-label="Text"
        className={`${box} w-52`}
        value={test.text}
        maxLength={500}
        onChange={(event) => onChange({ ...test, text: event.target.value })}
      />
    );
  if ('value' in test && test.op !== 'same')
    return (
      <input
        aria-label="Value"
        className={`${box} w-28`}
        defaultValue={test.value}
        onBlur={(event) => {
          const [value] = canonical(type, event.target.value);
          if (value !== undefined) onChange({ ...test, value });
          else event.target.value = test.value;
        }}
      />
    );
  return null;
}
