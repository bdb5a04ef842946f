import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import X from 'lucide-react/icons/x';
import type { ReactNode } from 'react';
import type { Field } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { ChoiceBox, plainChoices } from '../../ui/choice.tsx';
import { CheckField, smallBox, TextField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';

/* What the forms of steps are made of. */

/** One of some fields. */
export function FieldSelect({
  label,
  fields,
  value,
  onChange,
  none,
}: {
  label: string;
  fields: readonly Field[];
  value: string;
  onChange: (name: string) => void;
  /** What choosing none is called, where that is possible. */
  none?: string;
}) {
  const isGone = value !== '' && !fields.some(({ name }) => name === value);
  return (
    <SelectField
      label={label}
      value={value}
      onChange={onChange}
      choices={[
        ...(none !== undefined ? [{ value: '', words: none }] : []),
        ...(isGone ? [{ value, words: `${value} (does not fit)` }] : []),
        ...fields.map((field) => ({ value: field.name, words: labelOf(field) })),
      ]}
    />
  );
}

/** Several of some fields. */
export function FieldsPick({
  label,
  fields,
  value,
  onChange,
}: {
  label: string;
  fields: readonly Field[];
  value: readonly string[];
  onChange: (names: string[]) => void;
}) {
  return (
    <fieldset className="min-w-0">
      <legend className="mb-1 text-small font-strong text-slate">{label}</legend>
      <div className="flex max-h-52 flex-col overflow-auto rounded-[4px] border border-hair px-2 py-1">
        {fields.map((field) => (
          <CheckField
            key={field.name}
            label={labelOf(field)}
            checked={value.includes(field.name)}
            onChange={(event) =>
              onChange(
                event.target.checked ? [...value, field.name] : value.filter((name) => name !== field.name),
              )
            }
          />
        ))}
      </div>
    </fieldset>
  );
}

/** What a thing is called. A name that is emptied while it is typed stays what it was. */
export function NameField({
  label,
  value,
  hint,
  onChange,
}: {
  label: string;
  value: string;
  hint?: string | undefined;
  onChange: (name: string) => void;
}) {
  return (
    <TextField
      label={label}
      value={value}
      maxLength={200}
      hint={hint}
      onChange={({ target }) => target.value && onChange(target.value)}
    />
  );
}

/** The same as a {@link NameField} in a row whose other fields say what it names. */
export function NameInput({ value, onChange }: { value: string; onChange: (name: string) => void }) {
  return (
    <input
      aria-label="Called"
      className={`${smallBox} w-28 flex-1`}
      value={value}
      maxLength={200}
      onChange={({ target }) => target.value && onChange(target.value)}
    />
  );
}

export const calendarUnits = ['day', 'week', 'month', 'quarter', 'year'] as const;
export type CalendarUnit = (typeof calendarUnits)[number];

/** A calendar unit. */
export function UnitSelect({
  label,
  value,
  onChange,
}: {
  label: string;
  value: CalendarUnit;
  onChange: (unit: CalendarUnit) => void;
}) {
  return (
    <SelectField label={label} value={value} onChange={onChange} choices={plainChoices(calendarUnits)} />
  );
}

/** One of some fields, in a row whose other fields say what it is for. */
export function FieldChoice({
  label,
  fields,
  value,
  onChange,
}: {
  label: string;
  fields: readonly Field[];
  value: string;
  onChange: (name: string) => void;
}) {
  return (
    <ChoiceBox
      aria-label={label}
      className={`${smallBox} flex-1`}
      value={value}
      onChange={onChange}
      choices={fields.map((field) => ({ value: field.name, words: labelOf(field) }))}
    />
  );
}

/** Several things of one kind, each in a row that can be removed, and a button for one more. */
export function RowList<T>({
  legend,
  rows,
  row,
  removeLabel,
  least = 0,
  more,
  look = 'flex items-center gap-1.5',
  onChange,
}: {
  legend?: string;
  rows: readonly T[];
  /** What a row is told; `change` puts another thing in its place. */
  row: (value: T, change: (next: T) => void) => ReactNode;
  removeLabel: string;
  /** This many rows stay. */
  least?: number;
  /** What the button says and what it adds; without it nothing more can be added. */
  more: { readonly words: string; readonly make: () => NoInfer<T> } | null;
  look?: string;
  onChange: (rows: T[]) => void;
}) {
  return (
    <fieldset className="flex min-w-0 flex-col gap-1.5">
      {legend && <legend className="mb-1 text-small font-strong text-slate">{legend}</legend>}
      {rows.map((value, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: what is being put together has no other identity than its place
        <div key={index} className={look}>
          {row(value, (next) => onChange(rows.map((each, at) => (at === index ? next : each))))}
          <IconButton
            name={removeLabel}
            disabled={rows.length <= least}
            onClick={() => onChange(rows.filter((_, at) => at !== index))}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      {more && (
        <Button look="quiet" className="self-start" onClick={() => onChange([...rows, more.make()])}>
          {more.words}
        </Button>
      )}
    </fieldset>
  );
}

type Ordering = { by: string; descending?: boolean };
const mostOrders = 8;

/** An order: fields, the first deciding first. */
export function OrderList({
  label,
  fields,
  value,
  onChange,
}: {
  label: string;
  fields: readonly Field[];
  value: readonly { readonly by: string; readonly descending?: boolean | undefined }[];
  onChange: (order: Ordering[]) => void;
}) {
  const plain = plainOf(fields);
  const [first] = plain;
  const orders = value.map(({ by, descending }): Ordering => (descending ? { by, descending } : { by }));
  return (
    <RowList
      legend={label}
      rows={orders}
      removeLabel="Remove this"
      more={
        first && orders.length < mostOrders
          ? {
              words: orders.length === 0 ? 'Choose an order' : 'Then by another',
              make: () => ({ by: first.name }),
            }
          : null
      }
      onChange={onChange}
      row={(order, change) => (
        <>
          <FieldChoice
            label="By"
            fields={plain}
            value={order.by}
            onChange={(by) => change({ ...order, by })}
          />
          <ChoiceBox
            aria-label="Direction"
            className={smallBox}
            value={order.descending ? 'down' : 'up'}
            onChange={(chosen) =>
              change(chosen === 'down' ? { by: order.by, descending: true } : { by: order.by })
            }
            choices={[
              { value: 'up', words: 'least first' },
              { value: 'down', words: 'greatest first' },
            ]}
          />
        </>
      )}
    />
  );
}

/** Fields that have an order and can be compared. */
export const plainOf = (fields: readonly Field[]): Field[] => fields.filter(({ type }) => type !== 'nested');

/** Fields to keep, in an order of their own. */
export function FieldsOrder({
  fields,
  value,
  onChange,
}: {
  fields: readonly Field[];
  value: readonly string[];
  onChange: (names: string[]) => void;
}) {
  const left = fields.filter(({ name }) => !value.includes(name));
  const moved = (from: number, to: number): string[] => {
    const next = [...value];
    const [one] = next.splice(from, 1);
    if (one !== undefined) next.splice(to, 0, one);
    return next;
  };
  return (
    <fieldset className="min-w-0">
      <legend className="mb-1 text-small font-strong text-slate">Fields, in this order</legend>
      <ul className="flex max-h-72 flex-col overflow-auto rounded-[4px] border border-hair px-2 py-1">
        {value.map((name, at) => {
          const label = labelOf(fields.find((field) => field.name === name) ?? { name });
          return (
            <li key={name} className="flex items-center gap-1">
              <span className="min-w-0 flex-1 truncate">{label}</span>
              <IconButton
                name={`${label} up`}
                disabled={at === 0}
                onClick={() => onChange(moved(at, at - 1))}
              >
                <ArrowUp className="size-3.5" />
              </IconButton>
              <IconButton
                name={`${label} down`}
                disabled={at === value.length - 1}
                onClick={() => onChange(moved(at, at + 1))}
              >
                <ArrowDown className="size-3.5" />
              </IconButton>
              <IconButton
                name={`Leave out ${label}`}
                disabled={value.length === 1}
                onClick={() => onChange(value.filter((each) => each !== name))}
              >
                <X className="size-3.5" />
              </IconButton>
            </li>
          );
        })}
      </ul>
      {left.length > 0 && (
        <div className="mt-2 flex flex-wrap gap-1.5">
          {left.map((field) => (
            <Button key={field.name} look="quiet" onClick={() => onChange([...value, field.name])}>
              + {labelOf(field)}
            </Button>
          ))}
        </div>
      )}
    </fieldset>
  );
}
