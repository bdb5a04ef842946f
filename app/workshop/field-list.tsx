import { ArrowDown, ArrowUp } from 'lucide-react';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/field/field.ts';
import { labelOf } from '#core/field/value.ts';
import { IconButton } from '../ui/button.tsx';
import { Section } from '../ui/page.tsx';

/** The fields in the order in which readers see them: their labels, what is hidden, what names and identifies a record. */
export function FieldList({
  definition,
  onChange,
}: {
  definition: DataSet;
  onChange: (next: DataSet) => void;
}) {
  const { fields, key, title } = definition;
  const set = (name: string, change: Partial<Field>): void =>
    onChange({
      ...definition,
      fields: fields.map((field) => (field.name === name ? { ...field, ...change } : field)),
    });
  const move = (index: number, by: number): void => {
    const next = [...fields];
    const [moved] = next.splice(index, 1);
    if (moved) next.splice(index + by, 0, moved);
    onChange({ ...definition, fields: next });
  };
  return (
    <Section title="Fields" note="Labels are for readers. Hidden fields stay usable in filters and look-ups.">
      <div className="max-h-[28rem] overflow-auto">
        <table className="w-full text-left">
          <thead className="sticky top-0 ground text-small text-slate">
            <tr>
              <th scope="col">Field</th>
              <th scope="col">Label</th>
              <th scope="col">Shown</th>
              <th scope="col">Names it</th>
              <th scope="col">
                <span className="sr-only">Order</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field, index) => (
              <tr key={field.name} className="border-b border-hair">
                <td className="max-w-44 truncate py-1 pr-3" title={field.name}>
                  <span className="font-mono text-small">{field.name}</span>
                  <span className="block text-small text-muted">
                    {field.type}
                    {field.name === key && ', key'}
                  </span>
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`Label of ${field.name}`}
                    value={field.label ?? ''}
                    placeholder={labelOf({ name: field.name })}
                    maxLength={500}
                    onChange={(event) => {
                      const { label: _, ...rest } = field;
                      const next = event.target.value === '' ? rest : { ...rest, label: event.target.value };
                      onChange({
                        ...definition,
                        fields: fields.map((each) => (each.name === field.name ? next : each)),
                      });
                    }}
                    className="w-full border-b border-line bg-transparent px-1 py-0.5"
                  />
                </td>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`Show ${field.name}`}
                    checked={!field.hidden}
                    onChange={() => set(field.name, { hidden: !field.hidden })}
                    className="size-4 accent-[var(--accent)]"
                  />
                </td>
                <td>
                  <input
                    type="radio"
                    name="title"
                    aria-label={`${field.name} names a record`}
                    checked={field.name === title}
                    onChange={() => onChange({ ...definition, title: field.name })}
                    className="size-4 accent-[var(--accent)]"
                  />
                </td>
                <td className="whitespace-nowrap">
                  <IconButton
                    name={`Move ${field.name} up`}
                    disabled={index === 0}
                    onClick={() => move(index, -1)}
                  >
                    <ArrowUp className="size-4" />
                  </IconButton>
                  <IconButton
                    name={`Move ${field.name} down`}
                    disabled={index === fields.length - 1}
                    onClick={() => move(index, 1)}
                  >
                    <ArrowDown className="size-4" />
                  </IconButton>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Section>
  );
}
