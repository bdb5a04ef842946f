import { X } from 'lucide-react';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { fieldTypes } from '#core/field/types.ts';
import { isNumeric, isTemporal, labelOf } from '#core/field/value.ts';
import { readable } from '#core/step/kinds.ts';
import type { Step, StepOf } from '#core/step/schema.ts';
import { typeWords } from '#core/words/step.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { CheckField, SelectField, TextField } from '../../ui/field.tsx';
import { ConditionEditor } from '../condition-editor.tsx';
import { CalculationForm } from './calculation-form.tsx';
import { LookUpForm, RefSelect } from './look-up-form.tsx';
import { MakingForm } from './making-form.tsx';
import { box, FieldSelect, FieldsOrder, FieldsPick, OrderList } from './parts.tsx';
import { SpreadForm } from './spread-form.tsx';

export interface StepFormProps<S extends Step = Step> {
  readonly step: S;
  /** The fields before it. */
  readonly fields: readonly Field[];
  readonly id: string;
  readonly definition: DataSet;
  /** How many steps come before it. */
  readonly at: number;
  readonly world: ReadonlyMap<string, DataSet>;
  readonly names: ReadonlyMap<string, string>;
  readonly onChange: (step: S) => void;
}

const calendar = ['day', 'week', 'month', 'quarter', 'year'] as const;

/** What a step is told, opened under its sentence. */
export function StepForm(props: StepFormProps) {
  const { step } = props;
  // Each form is given the step of its own kind; TypeScript cannot follow that through one spread.
  const of = <S extends Step>(narrowed: S): StepFormProps<S> =>
    ({ ...props, step: narrowed }) as unknown as StepFormProps<S>;
  switch (step.kind) {
    case 'fields':
      return (
        <FieldsOrder
          fields={props.fields}
          value={step.keep}
          onChange={(keep) => props.onChange({ ...step, keep })}
        />
      );
    case 'rename':
      return <RenameForm {...of(step)} />;
    case 'type':
      return <TypeForm {...of(step)} />;
    case 'where':
      return (
        <ConditionEditor
          label="Keep records where"
          fields={props.fields}
          inputs={props.definition.inputs.map(({ name }) => name)}
          value={step.condition}
          onChange={(condition) => props.onChange({ ...step, condition: condition ?? { all: [] } })}
        />
      );
    case 'derive':
      return <MakingForm {...of(step)} />;
    case 'lookUp':
      return <LookUpForm {...of(step)} />;
    case 'unfold':
      return <UnfoldForm {...of(step)} />;
    case 'spread':
      return <SpreadForm {...of(step)} />;
    case 'stack':
      return <StackForm {...of(step)} />;
    case 'distinct':
      return <DistinctForm {...of(step)} />;
    case 'fill':
      return <FillForm {...of(step)} />;
    case 'summarise':
      return <SummariseForm {...of(step)} />;
    case 'rank':
      return <RankForm {...of(step)} />;
    case 'running':
      return <RunningForm {...of(step)} />;
    case 'periods':
      return <PeriodsForm {...of(step)} />;
    case 'wide':
      return <WideForm {...of(step)} />;
    case 'long':
      return <LongForm {...of(step)} />;
  }
}

const plainOf = (fields: readonly Field[]): Field[] => fields.filter(({ type }) => type !== 'nested');

function RenameForm({ step, fields, onChange }: StepFormProps<StepOf<'rename'>>) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <FieldSelect
        label="Field"
        fields={fields}
        value={step.field}
        onChange={(field) => onChange({ ...step, field })}
      />
      <TextField
        label="Is called"
        value={step.as}
        maxLength={200}
        onChange={({ target }) => target.value && onChange({ ...step, as: target.value })}
      />
    </div>
  );
}

function TypeForm({ step, fields, onChange }: StepFormProps<StepOf<'type'>>) {
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
          onChange={({ target }) => onChange({ ...step, to: target.value as Field['type'] })}
        >
          {fieldTypes
            .filter((type) => readable[from].includes(type))
            .map((type) => (
              <option key={type} value={type}>
                {typeWords[type]}
              </option>
            ))}
        </SelectField>
      </div>
      <SelectField
        label="What cannot be read so"
        value={step.misfit}
        onChange={({ target }) => onChange({ ...step, misfit: target.value as 'blank' })}
      >
        <option value="blank">becomes blank</option>
        <option value="list">becomes blank, with its text in a field beside it</option>
        <option value="stop">stops the data set</option>
      </SelectField>
    </div>
  );
}

function UnfoldForm({ step, fields, onChange }: StepFormProps<StepOf<'unfold'>>) {
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <FieldSelect
          label="List"
          fields={fields.filter(({ type }) => type === 'nested')}
          value={step.field}
          onChange={(field) => onChange({ ...step, field, as: field })}
        />
        <TextField
          label="An item is called"
          value={step.as}
          maxLength={200}
          onChange={({ target }) => target.value && onChange({ ...step, as: target.value })}
        />
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

function StackForm({ step, world, names, id, onChange }: StepFormProps<StepOf<'stack'>>) {
  return (
    <div className="flex flex-col gap-3">
      {step.with.map((each, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: what is stacked has no other identity than its place
        <div key={index} className="flex items-end gap-2">
          <div className="min-w-0 flex-1">
            <RefSelect
              label="Data set"
              value={each.ref}
              world={world}
              names={names}
              own={id}
              onChange={(ref) =>
                onChange({
                  ...step,
                  with: step.with.map((one, at) =>
                    at === index ? { ref, word: world.get(ref.dataSet)?.noun.many ?? one.word } : one,
                  ),
                })
              }
            />
          </div>
          <IconButton
            name="Take it away"
            disabled={step.with.length === 1}
            onClick={() => onChange({ ...step, with: step.with.filter((_, at) => at !== index) })}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      <Button
        look="quiet"
        className="self-start"
        onClick={() => onChange({ ...step, with: [...step.with, ...step.with.slice(-1)] })}
      >
        One more
      </Button>
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
          <TextField
            label="Field"
            value={step.origin.name}
            maxLength={200}
            onChange={({ target }) =>
              target.value &&
              step.origin &&
              onChange({ ...step, origin: { ...step.origin, name: target.value } })
            }
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

function DistinctForm({ step, fields, onChange }: StepFormProps<StepOf<'distinct'>>) {
  return (
    <div className="flex flex-col gap-3">
      <FieldsPick
        label="One record for each different (none: all fields)"
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

function FillForm({ step, fields, onChange }: StepFormProps<StepOf<'fill'>>) {
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
        onChange={({ target }) =>
          onChange({
            ...step,
            with:
              target.value === 'value'
                ? { kind: 'value', value: '' }
                : { kind: 'before', order: [{ by: usual?.name ?? '' }], within: [] },
          })
        }
      >
        <option value="value">always the same</option>
        <option value="before">the one before it</option>
      </SelectField>
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

/** An order, within groups that are alike in some fields. */
function Ordered({
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
        label="For each different (none: over all)"
        fields={plainOf(fields)}
        value={within}
        onChange={(next) => onChange(order, next)}
      />
    </>
  );
}

function SummariseForm({ step, fields, onChange }: StepFormProps<StepOf<'summarise'>>) {
  const put = (next: Partial<StepOf<'summarise'>>): void => onChange({ ...step, ...next });
  const plain = plainOf(fields);
  return (
    <div className="flex flex-col gap-3">
      <fieldset className="flex min-w-0 flex-col gap-1.5">
        <legend className="mb-1 text-small font-strong text-slate">For each</legend>
        {step.by.map((group, index) => {
          const type = fields.find(({ name }) => name === group.field)?.type ?? 'text';
          const change = (next: Partial<typeof group>): void =>
            put({ by: step.by.map((each, at) => (at === index ? { ...each, ...next } : each)) });
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: a group has no other identity than its place
            <div key={index} className="flex gap-1.5">
              <select
                aria-label="Group by"
                className={`${box} flex-1`}
                value={group.field}
                onChange={({ target }) => {
                  const { unit: _, ...rest } = group;
                  put({
                    by: step.by.map((each, at) =>
                      at === index ? { ...rest, field: target.value, as: target.value } : each,
                    ),
                  });
                }}
              >
                {plain.map((field) => (
                  <option key={field.name} value={field.name}>
                    {labelOf(field)}
                  </option>
                ))}
              </select>
              {isTemporal(type) && (
                <select
                  aria-label="Calendar unit"
                  className={box}
                  value={group.unit ?? ''}
                  onChange={({ target }) => {
                    const { unit: _, ...rest } = group;
                    put({
                      by: step.by.map((each, at) =>
                        at !== index
                          ? each
                          : target.value
                            ? { ...rest, unit: target.value as 'day', as: target.value }
                            : { ...rest, as: rest.field },
                      ),
                    });
                  }}
                >
                  <option value="">as it is</option>
                  {calendar.map((unit) => (
                    <option key={unit} value={unit}>
                      {unit}
                    </option>
                  ))}
                </select>
              )}
              <input
                aria-label="Called"
                className={`${box} w-28`}
                value={group.as}
                maxLength={200}
                onChange={({ target }) => target.value && change({ as: target.value })}
              />
              <IconButton
                name="Take this group away"
                onClick={() => put({ by: step.by.filter((_, at) => at !== index) })}
              >
                <X className="size-4" />
              </IconButton>
            </div>
          );
        })}
        {plain[0] && (
          <Button
            look="quiet"
            className="self-start"
            onClick={() => {
              const next = plain.find(({ name }) => !step.by.some(({ field }) => field === name)) ?? plain[0];
              if (next) put({ by: [...step.by, { field: next.name, as: next.name }] });
            }}
          >
            One more group
          </Button>
        )}
      </fieldset>
      {step.measures.map((measure, index) => {
        const change = (next: StepOf<'summarise'>['measures'][number]): void =>
          put({ measures: step.measures.map((each, at) => (at === index ? next : each)) });
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a measure that is being named has no other identity than its place
          <div key={index} className="flex flex-col gap-2 border-t border-hair pt-2">
            <CalculationForm
              label="Work out"
              fields={fields}
              value={measure.calculation}
              onChange={(calculation) => change({ ...measure, calculation })}
            />
            <div className="flex items-end gap-2">
              <div className="flex-1">
                <TextField
                  label="Called"
                  value={measure.name}
                  maxLength={200}
                  onChange={({ target }) => target.value && change({ ...measure, name: target.value })}
                />
              </div>
              <IconButton
                name="Take this figure away"
                disabled={step.measures.length === 1}
                onClick={() => put({ measures: step.measures.filter((_, at) => at !== index) })}
              >
                <X className="size-4" />
              </IconButton>
            </div>
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
        );
      })}
      <Button
        look="quiet"
        className="self-start"
        onClick={() =>
          put({
            measures: [
              ...step.measures,
              { name: `figure ${step.measures.length + 1}`, calculation: { kind: 'count' } },
            ],
          })
        }
      >
        One more figure
      </Button>
    </div>
  );
}

function RankForm({ step, fields, onChange }: StepFormProps<StepOf<'rank'>>) {
  return (
    <div className="flex flex-col gap-3">
      <TextField
        label="The place is called"
        value={step.as}
        maxLength={200}
        onChange={({ target }) => target.value && onChange({ ...step, as: target.value })}
      />
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

function RunningForm({ step, fields, onChange }: StepFormProps<StepOf<'running'>>) {
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Work out"
          value={step.what}
          onChange={({ target }) => {
            const what = target.value as StepOf<'running'>['what'];
            onChange({ ...step, what, ...(what === 'average' ? { over: step.over ?? 7 } : {}) });
          }}
        >
          <option value="total">the total so far</option>
          <option value="difference">the difference from the one before</option>
          <option value="average">the average of the latest</option>
          <option value="share">the share of all</option>
        </SelectField>
        <FieldSelect
          label="Of"
          fields={fields.filter(({ type }) => isNumeric(type))}
          value={step.field}
          onChange={(field) => onChange({ ...step, field })}
        />
        <TextField
          label="Called"
          value={step.as}
          maxLength={200}
          onChange={({ target }) => target.value && onChange({ ...step, as: target.value })}
        />
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

function PeriodsForm({ step, fields, onChange }: StepFormProps<StepOf<'periods'>>) {
  return (
    <div className="flex flex-col gap-3">
      <div className="grid grid-cols-2 gap-3">
        <FieldSelect
          label="Date"
          fields={fields.filter(({ type }) => type === 'date')}
          value={step.field}
          onChange={(field) => onChange({ ...step, field })}
        />
        <SelectField
          label="Every"
          value={step.unit}
          onChange={({ target }) => onChange({ ...step, unit: target.value as 'day' })}
        >
          {calendar.map((unit) => (
            <option key={unit} value={unit}>
              {unit}
            </option>
          ))}
        </SelectField>
      </div>
      <FieldsPick
        label="For each different (none: over all)"
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

function WideForm({ step, fields, onChange }: StepFormProps<StepOf<'wide'>>) {
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
      {step.values.map((each, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a value that is being typed has no other identity than its place
        <div key={index} className="flex gap-1.5">
          <input
            aria-label="Value"
            className={`${box} flex-1`}
            value={each.value}
            onChange={({ target }) =>
              onChange({
                ...step,
                values: step.values.map((one, at) =>
                  at === index
                    ? {
                        value: target.value,
                        as: one.as === one.value || one.as === 'first' ? target.value || 'first' : one.as,
                      }
                    : one,
                ),
              })
            }
          />
          <input
            aria-label="Called"
            className={`${box} flex-1`}
            value={each.as}
            onChange={({ target }) =>
              target.value &&
              onChange({
                ...step,
                values: step.values.map((one, at) => (at === index ? { ...one, as: target.value } : one)),
              })
            }
          />
          <IconButton
            name="Take this value away"
            disabled={step.values.length === 1}
            onClick={() => onChange({ ...step, values: step.values.filter((_, at) => at !== index) })}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      <Button
        look="quiet"
        className="self-start"
        onClick={() =>
          onChange({
            ...step,
            values: [...step.values, { value: '', as: `value ${step.values.length + 1}` }],
          })
        }
      >
        One more value
      </Button>
      <CalculationForm
        label="Filled with"
        fields={fields}
        value={step.calculation}
        onChange={(calculation) => onChange({ ...step, calculation })}
      />
    </div>
  );
}

function LongForm({ step, fields, onChange }: StepFormProps<StepOf<'long'>>) {
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
        <TextField
          label="Its name is called"
          value={step.name}
          maxLength={200}
          onChange={({ target }) => target.value && onChange({ ...step, name: target.value })}
        />
        <TextField
          label="Its value is called"
          value={step.value}
          maxLength={200}
          onChange={({ target }) => target.value && onChange({ ...step, value: target.value })}
        />
      </div>
    </div>
  );
}
