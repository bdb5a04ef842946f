import { X } from 'lucide-react';
import type { Condition, Test } from '#core/condition/schema.ts';
import type { Field } from '#core/field/field.ts';
import type { FieldType } from '#core/field/types.ts';
import { labelOf } from '#core/field/value.ts';
import { type Unit, units } from '#core/period/units.ts';
import { conditionWords } from '#core/words/condition.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { canonical, firstTest, type One, opOf, opsOf, partsOf, withOp } from './condition-draft.ts';

interface Props {
  readonly label: string;
  readonly fields: readonly Field[];
  readonly value: Condition | undefined;
  readonly onChange: (value: Condition | undefined) => void;
}

const box = 'min-h-8 rounded-[4px] border border-line bg-sheet px-2 py-1 text-small text-ink';

/** Which records are kept: tests that must all hold, or any of them. */
export function ConditionEditor({ label, fields, value, onChange }: Props) {
  const parts = partsOf(value);
  const offered = fields.filter(({ type }) => type !== 'nested');
  const [start] = offered;
  if (!parts)
    return (
      <fieldset className="flex flex-col gap-2">
        <legend className="text-small font-strong text-slate">{label}</legend>
        <p>{value && conditionWords(value, fields, { now: new Date(0), zone: 'UTC' })}</p>
        <Button className="self-start" onClick={() => onChange(undefined)}>
          Start again
        </Button>
      </fieldset>
    );
  const { join, tests } = parts;
  const put = (next: readonly One[], how = join): void =>
    onChange(
      next.length === 0
        ? undefined
        : next.length === 1
          ? next[0]
          : how === 'all'
            ? { all: [...next] }
            : { any: [...next] },
    );
  return (
    <fieldset className="flex flex-col gap-2">
      <legend className="mb-1 text-small font-strong text-slate">{label}</legend>
      {tests.map((test, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: tests have no other identity than their place
        <div key={index} className="flex flex-wrap items-center gap-2">
          {index > 0 && (
            <select
              aria-label="Joined by"
              className={box}
              value={join}
              onChange={(event) => put(tests, event.target.value === 'any' ? 'any' : 'all')}
            >
              <option value="all">and</option>
              <option value="any">or</option>
            </select>
          )}
          <OneTest
            fields={offered}
            value={test}
            onChange={(next) => put(tests.map((each, at) => (at === index ? next : each)))}
          />
          <IconButton name="Take this test away" onClick={() => put(tests.filter((_, at) => at !== index))}>
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      {start && (
        <Button
          className="self-start"
          onClick={() => put([...tests, { field: start.name, test: firstTest(start) }])}
        >
          {tests.length === 0 ? 'Keep only some' : 'One more test'}
        </Button>
      )}
    </fieldset>
  );
}

function OneTest({
  fields,
  value: { field: name, test },
  onChange,
}: {
  fields: readonly Field[];
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
      <TestValue type={type} test={test} onChange={(next) => onChange({ field: name, test: next })} />
    </>
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
