import { readable } from '#core/dataset/step/kinds/fields.ts';
import type { StepOf } from '#core/dataset/step/schema.ts';
import { fieldTypes } from '#core/value/field/types.ts';
import { typeWords } from '#core/words/step.ts';
import { TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { FieldSelect, NameField } from './parts.tsx';
import { Ordered } from './record-forms.tsx';
import type { StepFormProps } from './step-props.ts';

/* The forms of steps that change fields. */

export function RenameForm({ step, fields, onChange }: StepFormProps<StepOf<'rename'>>) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <FieldSelect
        label="Field"
        fields={fields}
        value={step.field}
        onChange={(field) => onChange({ ...step, field })}
      />
      <NameField label="Is called" value={step.as} onChange={(as) => onChange({ ...step, as })} />
    </div>
  );
}

export function TypeForm({ step, fields, onChange }: StepFormProps<StepOf<'type'>>) {
  const from = fields.find(({ name }) => name === step.field)?.type ?? 'text';
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <FieldSelect
          label="Field"
          fields={fields}
          value={step.field}
          onChange={(field) => {
            const next = fields.find(({ name }) => name === field)?.type ?? 'text';
            const [usual = 'text'] = readable[next];
            onChange({ ...step, field, to: readable[next].includes(step.to) ? step.to : usual });
          }}
        />
        <SelectField
          label="Read as"
          value={step.to}
          onChange={(chosen) => onChange({ ...step, to: chosen })}
          choices={fieldTypes
            .filter((type) => readable[from].includes(type))
            .map((type) => ({ value: type, words: typeWords[type] }))}
        />
      </div>
      <SelectField
        label="Values that cannot be read"
        value={step.misfit}
        onChange={(chosen) => onChange({ ...step, misfit: chosen })}
        choices={[
          { value: 'blank', words: 'becomes blank' },
          { value: 'list', words: 'becomes blank, with its text in a field beside it' },
          { value: 'stop', words: 'stops the data set' },
        ]}
      />
    </div>
  );
}

export function FillForm({ step, fields, onChange }: StepFormProps<StepOf<'fill'>>) {
  const [usual] = fields;
  return (
    <div className="flex flex-col gap-3">
      <FieldSelect
        label="Where blank"
        fields={fields}
        value={step.field}
        onChange={(field) => onChange({ ...step, field })}
      />
      <SelectField
        label="Put"
        value={step.with.kind}
        onChange={(chosen) =>
          onChange({
            ...step,
            with:
              chosen === 'value'
                ? { kind: 'value', value: '' }
                : { kind: 'before', order: [{ by: usual?.name ?? '' }], within: [] },
          })
        }
        choices={[
          { value: 'value', words: 'always the same' },
          { value: 'before', words: 'the one before it' },
        ]}
      />
      {step.with.kind === 'value' ? (
        <TextField
          label="Value"
          value={step.with.value}
          onChange={({ target }) => onChange({ ...step, with: { kind: 'value', value: target.value } })}
        />
      ) : (
        <Ordered
          fields={fields}
          order={step.with.order}
          within={step.with.within}
          onChange={(order, within) => onChange({ ...step, with: { kind: 'before', order, within } })}
        />
      )}
    </div>
  );
}
