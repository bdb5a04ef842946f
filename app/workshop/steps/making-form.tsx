import { X } from 'lucide-react';
import { lazy, Suspense } from 'react';
import type { Field } from '#core/field/field.ts';
import { isNumeric, isTemporal } from '#core/field/value.ts';
import type { Making, StepOf } from '#core/step/schema.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { SelectField, TextField } from '../../ui/field.tsx';
import { ConditionEditor } from '../condition-editor.tsx';
import { makings, newMaking } from './new-step.ts';
import { box, FieldSelect, FieldsPick } from './parts.tsx';
import type { StepFormProps } from './step-form.tsx';

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
        <TextField
          label="Field"
          value={step.name}
          maxLength={200}
          hint={
            fields.some(({ name }) => name === step.name) ? 'This changes the field of that name.' : undefined
          }
          onChange={({ target }) => target.value && onChange({ ...step, name: target.value })}
        />
        <SelectField
          label="Is"
          value={step.making.kind}
          onChange={({ target }) => put(newMaking(target.value as Making['kind'], fields))}
        >
          {makings.map(([kind, words]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </SelectField>
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
            onChange={({ target }) => onChange({ ...making, unit: target.value as 'day' })}
          >
            {(['day', 'hour', 'minute', 'second'] as const).map((unit) => (
              <option key={unit} value={unit}>
                {unit}s
              </option>
            ))}
          </SelectField>
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
          {making.bands.map((band, index) => {
            const change = (next: Partial<typeof band>): void =>
              onChange({
                ...making,
                bands: making.bands.map((each, at) => (at === index ? { ...each, ...next } : each)),
              });
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: a band has no other identity than its place
              <div key={index} className="flex items-center gap-1.5 text-small">
                below
                <input
                  aria-label="Below"
                  className={`${box} w-20`}
                  value={band.below}
                  onChange={({ target }) => change({ below: target.value })}
                />
                <input
                  aria-label="Word"
                  className={`${box} flex-1`}
                  value={band.word}
                  onChange={({ target }) => change({ word: target.value })}
                />
                <IconButton
                  name="Take this band away"
                  disabled={making.bands.length === 1}
                  onClick={() => onChange({ ...making, bands: making.bands.filter((_, at) => at !== index) })}
                >
                  <X className="size-4" />
                </IconButton>
              </div>
            );
          })}
          <Button
            look="quiet"
            className="self-start"
            onClick={() =>
              onChange({
                ...making,
                bands: [
                  ...making.bands,
                  { below: String(Number(making.bands.at(-1)?.below ?? 0) + 30), word: 'more' },
                ],
              })
            }
          >
            One more band
          </Button>
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
            value={making.size}
            onChange={({ target }) => onChange({ ...making, size: target.value })}
          />
        </div>
      );
    case 'choose':
      return (
        <>
          {making.when.map((each, index) => {
            const change = (next: Partial<typeof each>): void =>
              onChange({
                ...making,
                when: making.when.map((one, at) => (at === index ? { ...one, ...next } : one)),
              });
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: conditions are tried in the order of their places
              <div key={index} className="flex flex-col gap-2 border-l-2 border-hair pl-3">
                <div className="flex items-end gap-2">
                  <div className="flex-1">
                    <TextField
                      label="Word"
                      value={each.word}
                      onChange={({ target }) => change({ word: target.value })}
                    />
                  </div>
                  <IconButton
                    name="Take this word away"
                    disabled={making.when.length === 1}
                    onClick={() => onChange({ ...making, when: making.when.filter((_, at) => at !== index) })}
                  >
                    <X className="size-4" />
                  </IconButton>
                </div>
                <ConditionEditor
                  label="Where"
                  fields={fields}
                  inputs={inputs}
                  value={each.where}
                  onChange={(where) => change({ where: where ?? { all: [] } })}
                />
              </div>
            );
          })}
          <Button
            look="quiet"
            className="self-start"
            onClick={() =>
              onChange({ ...making, when: [...making.when, { where: { all: [] }, word: 'another' }] })
            }
          >
            One more word
          </Button>
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
          <SelectField
            label="The"
            value={making.unit}
            onChange={({ target }) => onChange({ ...making, unit: target.value as 'day' })}
          >
            {(['day', 'week', 'month', 'quarter', 'year'] as const).map((unit) => (
              <option key={unit} value={unit}>
                {unit}
              </option>
            ))}
          </SelectField>
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
