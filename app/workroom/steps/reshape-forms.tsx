import type { StepOf } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import { ChoiceBox, plainChoices } from '../../ui/choice.tsx';
import { CheckField, smallBox, TextField } from '../../ui/field.tsx';
import { ConditionEditor } from '../condition-editor.tsx';
import { CalculationForm } from './calculation-form.tsx';
import { RefSelect } from './look-up-form.tsx';
import {
  calendarUnits,
  FieldChoice,
  FieldSelect,
  FieldsPick,
  NameField,
  NameInput,
  plainOf,
  RowList,
  UnitSelect,
} from './parts.tsx';
import type { StepFormProps } from './step-props.ts';

/* The forms of steps that give other records than there were. */

export function UnfoldForm({ step, fields, onChange }: StepFormProps<StepOf<'unfold'>>) {
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <FieldSelect
          label="List"
          fields={fields.filter(({ type }) => type === 'nested')}
          value={step.field}
          onChange={(field) => onChange({ ...step, field, as: field })}
        />
        <NameField label="An item is called" value={step.as} onChange={(as) => onChange({ ...step, as })} />
      </div>
      <CheckField
        label="Keep records whose list is empty"
        checked={step.keepEmpty}
        onChange={({ target }) => onChange({ ...step, keepEmpty: target.checked })}
      />
      <CheckField
        label="Number the items"
        checked={step.place !== undefined}
        onChange={({ target }) => {
          const { place: _, ...rest } = step;
          onChange(target.checked ? { ...rest, place: `${step.as} number` } : rest);
        }}
      />
    </div>
  );
}

export function StackForm({ step, world, names, id, onChange }: StepFormProps<StepOf<'stack'>>) {
  return (
    <div className="flex flex-col gap-3">
      <RowList
        rows={step.with}
        removeLabel="Remove it"
        least={1}
        look="flex items-end gap-2"
        more={{ words: 'One more', make: () => step.with.at(-1) ?? { ref: { dataSet: id }, word: '' } }}
        onChange={(list) => onChange({ ...step, with: list })}
        row={(each, change) => (
          <div className="min-w-0 flex-1">
            <RefSelect
              label="Data set"
              value={each.ref}
              world={world}
              names={names}
              own={id}
              onChange={(ref) => change({ ref, word: world.get(ref.dataSet)?.noun.many ?? each.word })}
            />
          </div>
        )}
      />
      <CheckField
        label="A field that says where a record is from"
        checked={step.origin !== undefined}
        onChange={({ target }) => {
          const { origin: _, ...rest } = step;
          onChange(target.checked ? { ...rest, origin: { name: 'from', word: 'these' } } : rest);
        }}
      />
      {step.origin && (
        <div className="grid grid-cols-2 gap-3">
          <NameField
            label="Field"
            value={step.origin.name}
            onChange={(name) => step.origin && onChange({ ...step, origin: { ...step.origin, name } })}
          />
          <TextField
            label="Word for these"
            value={step.origin.word}
            onChange={({ target }) =>
              step.origin && onChange({ ...step, origin: { ...step.origin, word: target.value } })
            }
          />
        </div>
      )}
    </div>
  );
}

export function SummariseForm({ step, fields, onChange }: StepFormProps<StepOf<'summarise'>>) {
  const put = (next: Partial<StepOf<'summarise'>>): void => onChange({ ...step, ...next });
  const plain = plainOf(fields);
  const next = plain.find(({ name }) => !step.by.some(({ field }) => field === name)) ?? plain[0];
  return (
    <div className="flex flex-col gap-3">
      <RowList
        legend="For each"
        rows={step.by}
        removeLabel="Remove this group"
        more={next ? { words: 'One more group', make: () => ({ field: next.name, as: next.name }) } : null}
        onChange={(by) => put({ by })}
        row={(group, change) => <GroupRow group={group} fields={plain} onChange={change} />}
      />
      <RowList
        rows={step.measures}
        removeLabel="Remove this figure"
        least={1}
        look="flex items-start gap-2 border-t border-hair pt-2"
        more={{
          words: 'One more figure',
          make: () => ({
            name: `figure ${step.measures.length + 1}`,
            calculation: { kind: 'count' as const },
          }),
        }}
        onChange={(measures) => put({ measures })}
        row={(measure, change) => (
          <div className="flex min-w-0 flex-1 flex-col gap-2">
            <CalculationForm
              label="Work out"
              fields={fields}
              value={measure.calculation}
              onChange={(calculation) => change({ ...measure, calculation })}
            />
            <NameField
              label="Called"
              value={measure.name}
              onChange={(name) => change({ ...measure, name })}
            />
            <ConditionEditor
              label="Only of records where"
              fields={fields}
              value={measure.where}
              onChange={(where) => {
                const { where: _, ...rest } = measure;
                change(where ? { ...rest, where } : rest);
              }}
            />
          </div>
        )}
      />
    </div>
  );
}

type Grouping = StepOf<'summarise'>['by'][number];

/** A field to group by; a date or moment by a calendar unit where one is chosen. */
function GroupRow({
  group: { unit, ...group },
  fields,
  onChange,
}: {
  group: Grouping;
  fields: readonly Field[];
  onChange: (group: Grouping) => void;
}) {
  const type = fields.find(({ name }) => name === group.field)?.type ?? 'text';
  const withUnit = (each: Grouping): Grouping => (unit ? { ...each, unit } : each);
  return (
    <>
      <FieldChoice
        label="Group by"
        fields={fields}
        value={group.field}
        onChange={(field) => onChange({ field, as: field })}
      />
      {isTemporal(type) && (
        <ChoiceBox
          aria-label="Calendar unit"
          className={smallBox}
          value={unit ?? ''}
          onChange={(chosen) =>
            onChange(chosen ? { ...group, unit: chosen, as: chosen } : { ...group, as: group.field })
          }
          choices={[{ value: '', words: 'as it is' }, ...plainChoices(calendarUnits)]}
        />
      )}
      <NameInput value={group.as} onChange={(as) => onChange(withUnit({ ...group, as }))} />
    </>
  );
}

export function PeriodsForm({ step, fields, onChange }: StepFormProps<StepOf<'periods'>>) {
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <FieldSelect
          label="Date"
          fields={fields.filter(({ type }) => type === 'date')}
          value={step.field}
          onChange={(field) => onChange({ ...step, field })}
        />
        <UnitSelect label="Every" value={step.unit} onChange={(unit) => onChange({ ...step, unit })} />
      </div>
      <FieldsPick
        label="For each different (over all if none is chosen)"
        fields={plainOf(fields).filter(({ name }) => name !== step.field)}
        value={step.within}
        onChange={(within) => onChange({ ...step, within })}
      />
      <FieldsPick
        label="Numbers that are zero in what is added"
        fields={fields.filter(({ type }) => isNumeric(type))}
        value={step.zero}
        onChange={(zero) => onChange({ ...step, zero })}
      />
    </div>
  );
}

export function WideForm({ step, fields, onChange }: StepFormProps<StepOf<'wide'>>) {
  return (
    <div className="flex flex-col gap-3">
      <FieldsPick
        label="One record for each different"
        fields={plainOf(fields).filter(({ name }) => name !== step.across)}
        value={step.by}
        onChange={(by) => onChange({ ...step, by })}
      />
      <FieldSelect
        label="A field for each value of"
        fields={fields.filter(({ type }) => type === 'text' || type === 'integer' || type === 'boolean')}
        value={step.across}
        onChange={(across) => onChange({ ...step, across })}
      />
      <RowList
        rows={step.values}
        removeLabel="Remove this value"
        least={1}
        more={{
          words: 'One more value',
          make: () => ({ value: '', as: `value ${step.values.length + 1}` }),
        }}
        onChange={(values) => onChange({ ...step, values })}
        row={(each, change) => {
          // A field is called as its value is until it is given a name of its own.
          const isOwn = each.as !== each.value && each.as !== 'first';
          return (
            <>
              <input
                aria-label="Value"
                className={`${smallBox} flex-1`}
                value={each.value}
                onChange={({ target: { value } }) =>
                  change({ value, as: isOwn ? each.as : value || 'first' })
                }
              />
              <NameInput value={each.as} onChange={(as) => change({ ...each, as })} />
            </>
          );
        }}
      />
      <CalculationForm
        label="Filled with"
        fields={fields}
        value={step.calculation}
        onChange={(calculation) => onChange({ ...step, calculation })}
      />
    </div>
  );
}

export function LongForm({ step, fields, onChange }: StepFormProps<StepOf<'long'>>) {
  const type = fields.find(({ name }) => name === step.fields[0])?.type;
  const like = plainOf(fields).filter((field) => step.fields.length === 0 || field.type === type);
  return (
    <div className="flex flex-col gap-3">
      <FieldsPick
        label="A record for each of"
        fields={like}
        value={step.fields}
        onChange={(next) => onChange({ ...step, fields: next })}
      />
      <div className="grid grid-cols-2 gap-3">
        <NameField
          label="Its name is called"
          value={step.name}
          onChange={(name) => onChange({ ...step, name })}
        />
        <NameField
          label="Its value is called"
          value={step.value}
          onChange={(value) => onChange({ ...step, value })}
        />
      </div>
    </div>
  );
}
