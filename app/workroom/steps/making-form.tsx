import { lazy, Suspense } from 'react';
import type { Making, StepOf } from '#core/dataset/step/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, isTemporal } from '#core/value/field/value.ts';
import { asTyped, fromTyped } from '#core/value/number-style.ts';
import { smallBox, TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { ConditionEditor } from '../condition-editor.tsx';
import { makings, newMaking } from './new-step.ts';
import { FieldSelect, FieldsPick, NameField, RowList, UnitSelect } from './parts.tsx';
import type { StepFormProps } from './step-props.ts';

const ExpressionField = lazy(() =>
  import('./expression-field.tsx').then((module) => ({ default: module.ExpressionField })),
);

/** A field that is made: its name, and how. */
export function MakingForm({ step, fields, definition, onChange }: StepFormProps<StepOf<'derive'>>) {
  const inputs = definition.inputs.map(({ name }) => name);
  const put = (making: Making): void => onChange({ ...step, making });
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <NameField
          label="Field"
          value={step.name}
          hint={
            fields.some(({ name }) => name === step.name) ? 'This changes the field of that name.' : undefined
          }
          onChange={(name) => onChange({ ...step, name })}
        />
        <SelectField
          label="Is"
          value={step.making.kind}
          onChange={(chosen) => put(newMaking(chosen, fields))}
          choices={makings.map(([kind, words]) => ({ value: kind, words }))}
        />
      </div>
      <MakingFields making={step.making} fields={fields} inputs={inputs} onChange={put} />
    </div>
  );
}

function MakingFields({
  making,
  fields,
  inputs,
  onChange,
}: {
  making: Making;
  fields: readonly Field[];
  inputs: readonly string[];
  onChange: (making: Making) => void;
}) {
  const texts = fields.filter(({ type }) => type === 'text');
  const numbers = fields.filter(({ type }) => isNumeric(type));
  const moments = fields.filter(({ type }) => isTemporal(type));
  const instants = fields.filter(({ type }) => type === 'instant');
  switch (making.kind) {
    case 'expression':
      return (
        <Suspense fallback={<div className="h-24 bg-well" />}>
          <ExpressionField
            value={making.text}
            fields={fields}
            onChange={(text) => onChange({ ...making, text })}
          />
        </Suspense>
      );
    case 'join':
      return (
        <>
          <FieldsPick
            label="Put together"
            fields={fields.filter(({ type }) => type !== 'nested')}
            value={making.fields}
            onChange={(next) => onChange({ ...making, fields: next })}
          />
          <TextField
            label="With this between"
            value={making.between}
            onChange={({ target }) => onChange({ ...making, between: target.value })}
          />
        </>
      );
    case 'split':
      return (
        <div className="grid grid-cols-3 gap-3">
          <FieldSelect
            label="Text"
            fields={texts}
            value={making.field}
            onChange={(field) => onChange({ ...making, field })}
          />
          <TextField
            label="Split at"
            value={making.at}
            onChange={({ target }) => onChange({ ...making, at: target.value })}
          />
          <TextField
            label="Part"
            type="number"
            min={1}
            value={making.part}
            onChange={({ target }) =>
              target.valueAsNumber >= 1 && onChange({ ...making, part: Math.trunc(target.valueAsNumber) })
            }
          />
        </div>
      );
    case 'extract':
      return (
        <div className="grid grid-cols-2 gap-3">
          <FieldSelect
            label="Text"
            fields={texts}
            value={making.field}
            onChange={(field) => onChange({ ...making, field })}
          />
          <TextField
            label="Pattern"
            className="font-mono"
            hint="A regular expression; its first group, else all that it finds."
            value={making.pattern}
            onChange={({ target }) => onChange({ ...making, pattern: target.value })}
          />
        </div>
      );
    case 'between':
      return (
        <div className="grid grid-cols-3 gap-3">
          <SelectField
            label="Whole"
            value={making.unit}
            onChange={(chosen) => onChange({ ...making, unit: chosen })}
            choices={(['day', 'hour', 'minute', 'second'] as const).map((unit) => ({
              value: unit,
              words: `${unit}s`,
            }))}
          />
          <FieldSelect
            label="From"
            fields={moments}
            value={making.from}
            onChange={(from) => onChange({ ...making, from })}
          />
          <FieldSelect
            label="To"
            none="now"
            fields={moments}
            value={making.to ?? ''}
            onChange={(to) => {
              const { to: _, ...rest } = making;
              onChange(to ? { ...rest, to } : rest);
            }}
          />
        </div>
      );
    case 'bands':
      return (
        <>
          <FieldSelect
            label="Number"
            fields={numbers}
            value={making.field}
            onChange={(field) => onChange({ ...making, field })}
          />
          <RowList
            rows={making.bands}
            removeLabel="Remove this band"
            least={1}
            look="flex items-center gap-1.5 text-small"
            more={{
              words: 'One more band',
              make: () => ({ below: String(Number(making.bands.at(-1)?.below ?? 0) + 30), word: 'more' }),
            }}
            onChange={(bands) => onChange({ ...making, bands })}
            row={(band, change) => (
              <>
                below
                <input
                  aria-label="Below"
                  className={`${smallBox} w-20`}
                  value={asTyped(band.below)}
                  onChange={({ target }) => change({ ...band, below: fromTyped(target.value) })}
                />
                <input
                  aria-label="Word"
                  className={`${smallBox} flex-1`}
                  value={band.word}
                  onChange={({ target }) => change({ ...band, word: target.value })}
                />
              </>
            )}
          />
          <TextField
            label="The rest"
            value={making.rest}
            onChange={({ target }) => onChange({ ...making, rest: target.value })}
          />
        </>
      );
    case 'bins':
      return (
        <div className="grid grid-cols-2 gap-3">
          <FieldSelect
            label="Number"
            fields={numbers}
            value={making.field}
            onChange={(field) => onChange({ ...making, field })}
          />
          <TextField
            label="In steps of"
            inputMode="decimal"
            value={asTyped(making.size)}
            onChange={({ target }) => onChange({ ...making, size: fromTyped(target.value) })}
          />
        </div>
      );
    case 'choose':
      return (
        <>
          <RowList
            rows={making.when}
            removeLabel="Remove this word"
            least={1}
            look="flex items-start gap-2 border-l-2 border-hair pl-3"
            more={{ words: 'One more word', make: () => ({ where: { all: [] }, word: 'another' }) }}
            onChange={(when) => onChange({ ...making, when })}
            row={(each, change) => (
              <div className="flex min-w-0 flex-1 flex-col gap-2">
                <TextField
                  label="Word"
                  value={each.word}
                  onChange={({ target }) => change({ ...each, word: target.value })}
                />
                <ConditionEditor
                  label="Where"
                  fields={fields}
                  inputs={inputs}
                  value={each.where}
                  onChange={(where) => change({ ...each, where: where ?? { all: [] } })}
                />
              </div>
            )}
          />
          <TextField
            label="Otherwise"
            value={making.otherwise}
            onChange={({ target }) => onChange({ ...making, otherwise: target.value })}
          />
        </>
      );
    case 'link':
      return (
        <TextField
          label="Address"
          className="font-mono"
          hint="Fields stand in it as {field}, or {?field} at its end."
          value={making.template}
          onChange={({ target }) => onChange({ ...making, template: target.value })}
        />
      );
    case 'period':
      return (
        <div className="grid grid-cols-2 gap-3">
          <UnitSelect label="The" value={making.unit} onChange={(unit) => onChange({ ...making, unit })} />
          <FieldSelect
            label="Of"
            fields={moments}
            value={making.field}
            onChange={(field) => onChange({ ...making, field })}
          />
        </div>
      );
    case 'shift':
      return (
        <>
          <div className="grid grid-cols-2 gap-3">
            <FieldSelect
              label="Moment"
              fields={instants}
              value={making.field}
              onChange={(field) => onChange({ ...making, field })}
            />
            <TextField
              label="Minutes later"
              hint="Below zero: earlier."
              type="number"
              value={making.minutes}
              onChange={({ target }) =>
                Number.isInteger(target.valueAsNumber) &&
                onChange({ ...making, minutes: target.valueAsNumber })
              }
            />
          </div>
          <ConditionEditor
            label="Only where"
            fields={fields}
            inputs={inputs}
            value={making.where}
            onChange={(where) => {
              const { where: _, ...rest } = making;
              onChange(where ? { ...rest, where } : rest);
            }}
          />
        </>
      );
    case 'clock':
      return (
        <div className="grid grid-cols-2 gap-3">
          <FieldSelect
            label="Moment"
            fields={instants}
            value={making.field}
            onChange={(field) => onChange({ ...making, field })}
          />
          <TextField
            label="Zone of the clocks"
            list="zones"
            value={making.zone}
            onChange={({ target }) => onChange({ ...making, zone: target.value })}
          />
          <datalist id="zones">
            {Intl.supportedValuesOf('timeZone').map((zone) => (
              <option key={zone} value={zone} />
            ))}
          </datalist>
        </div>
      );
  }
}
