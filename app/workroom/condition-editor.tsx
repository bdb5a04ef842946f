import X from 'lucide-react/icons/x';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { ChoiceBox } from '../ui/choice.tsx';
import { smallBox } from '../ui/field.tsx';
import {
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
import { Compared, TestValue } from './condition-value.tsx';

interface Props {
  readonly label: string;
  readonly fields: readonly Field[];
  readonly value: Condition | undefined;
  readonly onChange: (value: Condition | undefined) => void;
  /** Inputs that a field can be compared with. */
  readonly inputs?: readonly string[];
}

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
        <ChoiceBox
          aria-label="How the tests are joined"
          className={`${smallBox} self-start`}
          value={join}
          onChange={(chosen) => put(parts, chosen)}
          choices={joins.map(([each, words]) => ({ value: each, words }))}
        />
      )}
      {parts.map((part, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: tests have no other identity than their place
        <div key={index} className="grid min-w-0 grid-cols-[minmax(0,1fr)_auto] items-start gap-1">
          {'field' in part ? (
            <div className="flex min-w-0 flex-wrap items-center gap-2">
              <OneTest
                fields={fields}
                inputs={inputs}
                value={part}
                onChange={(next) => replaced(index, next)}
              />
            </div>
          ) : (
            <div className="min-w-0">
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
            name={'field' in part ? 'Remove this test' : 'Remove this group'}
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
  const known: Field = field ?? { name, type: 'text' };
  return (
    <>
      <ChoiceBox
        aria-label="Field"
        className={smallBox}
        value={name}
        onChange={(chosen) => {
          const next = fields.find((each) => each.name === chosen);
          if (next) onChange({ field: next.name, test: firstTest(next) });
        }}
        choices={[
          ...(!field ? [{ value: name, words: `${name} (gone)` }] : []),
          ...fields.map((each) => ({ value: each.name, words: labelOf(each).toLowerCase() })),
        ]}
      />
      <ChoiceBox
        aria-label="Test"
        className={smallBox}
        value={opOf(test)}
        onChange={(chosen) => onChange({ field: name, test: withOp(test, chosen) })}
        choices={opsOf(known.type).map(([op, words]) => ({ value: op, words }))}
      />
      <Compared
        name={name}
        type={known.type}
        test={test}
        fields={fields}
        inputs={inputs}
        onChange={(next) => onChange({ field: name, test: next })}
      />
      <TestValue field={known} test={test} onChange={(next) => onChange({ field: name, test: next })} />
    </>
  );
}
