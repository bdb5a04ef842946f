import { useState } from 'react';
import { areComparable, ordersOf, orderWords, ruleWords } from '#core/change/rules.ts';
import type { ChangeRule, RuleOrder } from '#core/dataset/change/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { Button } from '../../ui/button.tsx';
import { Section } from '../../ui/page.tsx';
import { SelectField } from '../../ui/select-field.tsx';

/** What has to be so between fields of a record once somebody has changed it. */
export function Rules({
  definition: { fields, noun },
  rules,
  onChange,
}: {
  definition: DataSet;
  rules: readonly ChangeRule[];
  onChange: (rules: ChangeRule[]) => void;
}) {
  const [isAdding, setIsAdding] = useState(false);
  return (
    <Section
      title="Rules between fields"
      note={`Held against each ${noun.one} before it is sent. What is blank breaks none.`}
      action={!isAdding && <Button onClick={() => setIsAdding(true)}>Add a rule</Button>}
    >
      <ul>
        {rules.map((rule) => {
          const words = ruleWords(rule, fields);
          return (
            <li key={words} className="flex items-baseline justify-between gap-4 border-b border-hair py-1">
              <span>{words}</span>
              <Button
                look="quiet"
                aria-label={`Remove the rule “${words}”`}
                onClick={() => onChange(rules.filter((each) => each !== rule))}
              >
                Remove
              </Button>
            </li>
          );
        })}
      </ul>
      {isAdding && (
        <NewRule
          fields={fields}
          onAdd={(rule) => {
            setIsAdding(false);
            onChange([...rules, rule]);
          }}
          onCancel={() => setIsAdding(false)}
        />
      )}
      {rules.length === 0 && !isAdding && <p className="text-muted">None yet.</p>}
    </Section>
  );
}

function NewRule({
  fields,
  onAdd,
  onCancel,
}: {
  fields: DataSet['fields'];
  onAdd: (rule: ChangeRule) => void;
  onCancel: () => void;
}) {
  const comparable = fields.filter((field) => fields.some((other) => areComparable(field, other)));
  const temporalFirst = comparable.find(({ type }) => type === 'instant' || type === 'date') ?? comparable[0];
  const [chosen, setChosen] = useState<{ field: string; is: RuleOrder; than: string }>(() => ({
    field: temporalFirst?.name ?? '',
    is: temporalFirst ? (ordersOf(temporalFirst.type)[0] ?? 'differs') : 'differs',
    than: fields.find((other) => temporalFirst && areComparable(temporalFirst, other))?.name ?? '',
  }));
  const field = fields.find(({ name }) => name === chosen.field);
  if (!field) return <p className="text-muted">No two of its fields can be compared.</p>;
  const others = fields.filter((other) => areComparable(field, other));
  const named = (some: DataSet['fields']) => some.map((each) => ({ value: each.name, words: labelOf(each) }));
  return (
    <form
      className="my-2 flex flex-wrap items-end gap-3 rounded-[4px] border border-line bg-sheet p-3"
      onSubmit={(event) => {
        event.preventDefault();
        onAdd(chosen);
      }}
    >
      <SelectField
        label="This field"
        value={chosen.field}
        choices={named(comparable)}
        onChange={(name) => {
          const next = fields.find((each) => each.name === name) ?? field;
          const than = fields.find((other) => areComparable(next, other))?.name ?? '';
          setChosen({ field: name, is: ordersOf(next.type)[0] ?? 'differs', than });
        }}
      />
      <SelectField
        label="Must be"
        value={chosen.is}
        choices={ordersOf(field.type).map((value) => ({ value, words: orderWords(value, field.type) }))}
        onChange={(is) => setChosen({ ...chosen, is })}
      />
      <SelectField
        label="This one"
        value={chosen.than}
        choices={named(others)}
        onChange={(than) => setChosen({ ...chosen, than })}
      />
      <span className="flex gap-2">
        <Button type="submit">Add</Button>
        <Button look="quiet" onClick={onCancel}>
          Cancel
        </Button>
      </span>
    </form>
  );
}
