import type { StepOf } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric } from '#core/value/field/value.ts';
import { TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { FieldSelect, FieldsPick, NameField, OrderList, plainOf } from './parts.tsx';
import type { StepFormProps } from './step-props.ts';

/* The forms of steps that look at records in an order. */

export function DistinctForm({ step, fields, onChange }: StepFormProps<StepOf<'distinct'>>) {
  return (
    <div className="flex flex-col gap-3">
      <FieldsPick
        label="One record for each different (all fields if none is chosen)"
        fields={plainOf(fields)}
        value={step.by}
        onChange={(by) => onChange({ ...step, by })}
      />
      <OrderList
        label="The first by"
        fields={fields}
        value={step.order}
        onChange={(order) => onChange({ ...step, order })}
      />
    </div>
  );
}

/** An order, within groups that are alike in some fields. */
export function Ordered({
  fields,
  order,
  within,
  onChange,
}: {
  fields: readonly Field[];
  order: StepOf<'rank'>['order'];
  within: readonly string[];
  onChange: (order: StepOf<'rank'>['order'], within: string[]) => void;
}) {
  return (
    <>
      <OrderList
        label="In the order of"
        fields={fields}
        value={order}
        onChange={(next) => onChange(next, [...within])}
      />
      <FieldsPick
        label="For each different (over all if none is chosen)"
        fields={plainOf(fields)}
        value={within}
        onChange={(next) => onChange(order, next)}
      />
    </>
  );
}

export function RankForm({ step, fields, onChange }: StepFormProps<StepOf<'rank'>>) {
  return (
    <div className="flex flex-col gap-3">
      <NameField label="The place is called" value={step.as} onChange={(as) => onChange({ ...step, as })} />
      <Ordered
        fields={fields}
        order={step.order}
        within={step.within}
        onChange={(order, within) => onChange({ ...step, order, within })}
      />
      <TextField
        label="Keep only the first"
        hint="Empty keeps all. Records that tie share a place."
        type="number"
        min={1}
        value={step.keep ?? ''}
        onChange={({ target }) => {
          const { keep: _, ...rest } = step;
          const keep = Math.trunc(target.valueAsNumber);
          onChange(keep >= 1 ? { ...rest, keep } : rest);
        }}
      />
    </div>
  );
}

export function RunningForm({ step, fields, onChange }: StepFormProps<StepOf<'running'>>) {
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Work out"
          value={step.what}
          onChange={(what) => {
            onChange({ ...step, what, ...(what === 'average' ? { over: step.over ?? 7 } : {}) });
          }}
          choices={[
            { value: 'total', words: 'the total so far' },
            { value: 'difference', words: 'the difference from the one before' },
            { value: 'average', words: 'the average of the latest' },
            { value: 'share', words: 'the share of all' },
          ]}
        />
        <FieldSelect
          label="Of"
          fields={fields.filter(({ type }) => isNumeric(type))}
          value={step.field}
          onChange={(field) => onChange({ ...step, field })}
        />
        <NameField label="Called" value={step.as} onChange={(as) => onChange({ ...step, as })} />
        {step.what === 'average' && (
          <TextField
            label="Over how many records"
            type="number"
            min={1}
            value={step.over ?? 7}
            onChange={({ target }) =>
              target.valueAsNumber >= 1 && onChange({ ...step, over: Math.trunc(target.valueAsNumber) })
            }
          />
        )}
      </div>
      <Ordered
        fields={fields}
        order={step.order}
        within={step.within}
        onChange={(order, within) => onChange({ ...step, order, within })}
      />
    </div>
  );
}
