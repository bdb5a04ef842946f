import type { Calculation, SimpleCalculation } from '#core/ask/measure/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { calculationKinds } from '#core/words/measure.ts';
import { choicesOf } from '../../ui/choice.tsx';
import { TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { ConditionEditor } from '../condition-editor.tsx';
import { fieldsBy, fieldsFor, simpleOf } from '../measure-draft.ts';
import { FieldSelect } from './parts.tsx';

const simpleKinds = Object.keys(calculationKinds).filter(
  (kind) => kind !== 'share' && kind !== 'ratio',
) as SimpleCalculation['kind'][];

/** What is worked out over the records of a group. */
export function CalculationForm({
  label,
  fields,
  value,
  onChange,
}: {
  label: string;
  fields: readonly Field[];
  value: Calculation;
  onChange: (next: Calculation) => void;
}) {
  const choose = (kind: Calculation['kind']): void => {
    const next = started(kind, fields, 'field' in value ? value.field : undefined);
    if (next) onChange(next);
  };
  return (
    <div className="flex min-w-0 flex-col gap-2">
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label={label}
          value={value.kind}
          onChange={choose}
          choices={choicesOf(calculationKinds)}
        />
        {value.kind !== 'share' && value.kind !== 'ratio' && (
          <SimpleForm fields={fields} value={value} onChange={onChange} />
        )}
      </div>
      {value.kind === 'ratio' &&
        (['of', 'to'] as const).map((part) => (
          <div key={part} className="grid grid-cols-2 gap-3">
            <SelectField
              label={part === 'of' ? 'Of' : 'Per'}
              value={value[part].kind}
              onChange={(chosen) => {
                const next = simpleOf(chosen, fields);
                if (next) onChange({ ...value, [part]: next });
              }}
              choices={simpleKinds.map((kind) => ({ value: kind, words: calculationKinds[kind] }))}
            />
            <SimpleForm
              fields={fields}
              value={value[part]}
              onChange={(next) => onChange({ ...value, [part]: next })}
            />
          </div>
        ))}
      {value.kind === 'share' && (
        <ConditionEditor
          label="That are"
          fields={fields}
          value={value.where}
          onChange={(where) => onChange({ kind: 'share', where: where ?? { all: [] } })}
        />
      )}
    </div>
  );
}

/** A calculation while only its kind is chosen; null where no field fits. */
function started(
  kind: Calculation['kind'],
  fields: readonly Field[],
  field: string | undefined,
): Calculation | null {
  if (kind === 'share') return { kind, where: { all: [] } };
  if (kind === 'ratio')
    return { kind, of: simpleOf('sum', fields) ?? { kind: 'count' }, to: { kind: 'count' } };
  return simpleOf(kind, fields, field);
}

function SimpleForm({
  fields,
  value,
  onChange,
}: {
  fields: readonly Field[];
  value: SimpleCalculation;
  onChange: (next: SimpleCalculation) => void;
}) {
  if (value.kind === 'count') return null;
  return (
    <>
      <FieldSelect
        label="Of the field"
        fields={fieldsFor(value.kind, fields)}
        value={value.field}
        onChange={(field) => onChange({ ...value, field })}
      />
      {value.kind === 'percentile' && (
        <TextField
          label="Percentile"
          type="number"
          min={1}
          max={99}
          defaultValue={value.at}
          onChange={({ target }) => {
            const at = Math.trunc(target.valueAsNumber);
            if (at >= 1 && at <= 99) onChange({ ...value, at });
          }}
        />
      )}
      {'by' in value && (
        <FieldSelect
          label={value.kind === 'weighted' ? 'Weighed by' : 'In the order of'}
          fields={fieldsBy(value.kind, fields)}
          value={value.by}
          onChange={(by) => onChange({ ...value, by })}
        />
      )}
    </>
  );
}
