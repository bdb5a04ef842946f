import { ArrowDown, ArrowUp, X } from 'lucide-react';
import { useId } from 'react';
import type { Field } from '#core/field/field.ts';
import { labelOf } from '#core/field/value.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { CheckField, SelectField } from '../../ui/field.tsx';

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
    <SelectField label={label} value={value} onChange={(event) => onChange(event.target.value)}>
      {none !== undefined && <option value="">{none}</option>}
      {isGone && <option value={value}>{value} (does not fit)</option>}
      {fields.map((field) => (
        <option key={field.name} value={field.name}>
          {labelOf(field)}
        </option>
      ))}
    </SelectField>
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

type Order = readonly { readonly by: string; readonly descending?: boolean | undefined }[];

/** An order: fields, the first deciding first. */
export function OrderList({
  label,
  fields,
  value,
  onChange,
}: {
  label: string;
  fields: readonly Field[];
  value: Order;
  onChange: (order: { by: string; descending?: boolean }[]) => void;
}) {
  const id = useId();
  const plain = fields.filter(({ type }) => type !== 'nested');
  const put = (next: Order): void =>
    onChange(next.map(({ by, descending }) => (descending ? { by, descending } : { by })));
  return (
    <fieldset className="flex min-w-0 flex-col gap-1.5">
      <legend className="mb-1 text-small font-strong text-slate">{label}</legend>
      {value.map(({ by, descending }, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: an order has no other identity than its place
        <div key={`${id} ${index}`} className="flex gap-1.5">
          <select
            aria-label="By"
            className={box}
            value={by}
            onChange={(event) =>
              put(value.map((each, at) => (at === index ? { ...each, by: event.target.value } : each)))
            }
          >
            {plain.map((field) => (
              <option key={field.name} value={field.name}>
                {labelOf(field)}
              </option>
            ))}
          </select>
          <select
            aria-label="Direction"
            className={box}
            value={descending ? 'down' : 'up'}
            onChange={(event) =>
              put(
                value.map((each, at) =>
                  at === index ? { by: each.by, descending: event.target.value === 'down' } : each,
                ),
              )
            }
          >
            <option value="up">least first</option>
            <option value="down">greatest first</option>
          </select>
          <IconButton name="Take this away" onClick={() => put(value.filter((_, at) => at !== index))}>
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      {plain[0] && value.length < 8 && (
        <Button
          look="quiet"
          className="self-start"
          onClick={() => put([...value, { by: plain[0]?.name ?? '' }])}
        >
          {value.length === 0 ? 'Choose an order' : 'Then by another'}
        </Button>
      )}
    </fieldset>
  );
}

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

export const box = 'min-h-8 min-w-0 rounded-[4px] border border-line bg-sheet px-2 py-1 text-small text-ink';
