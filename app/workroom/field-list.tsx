import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import SlidersHorizontal from 'lucide-react/icons/sliders-horizontal';
import { Fragment, useState } from 'react';
import { readAsText } from '#core/dataset/read-as-text.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { World } from '#core/dataset/world.ts';
import type { Field } from '#core/value/field/field.ts';
import { isNumeric, labelOf } from '#core/value/field/value.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { FormatFields } from '../ui/format-fields.tsx';
import { Section } from '../ui/page.tsx';
import { BandList } from './band-list.tsx';
import { ColourList } from './colour-list.tsx';
import { withPart } from './field-state.ts';
import { StateList } from './state-list.tsx';

/** The fields in the order in which readers see them: what is said of them, what is hidden, what names a record. */
export function FieldList({
  id,
  definition,
  world,
  onChange,
}: {
  id: string;
  definition: DataSet;
  /** The data sets that its steps refer to. */
  world: World;
  onChange: (next: DataSet) => void;
}) {
  const { fields, key, title } = definition;
  const [open, setOpen] = useState<string | null>(null);
  const put = (next: Field): void =>
    onChange({ ...definition, fields: fields.map((field) => (field.name === next.name ? next : field)) });
  const move = (index: number, by: number): void => {
    const next = [...fields];
    const [moved] = next.splice(index, 1);
    if (moved) next.splice(index + by, 0, moved);
    onChange({ ...definition, fields: next });
  };
  return (
    <Section title="Fields" note="Labels are for readers. Hidden fields stay usable in filters and look-ups.">
      <div className="max-h-[34rem] overflow-auto">
        <table className="w-full text-left">
          <thead className="sticky top-0 ground text-small text-slate">
            <tr>
              <th scope="col">Field</th>
              <th scope="col">Label</th>
              <th scope="col" className="pr-3">
                Shown
              </th>
              <th scope="col" className="whitespace-nowrap">
                Shown as its name
              </th>
              <th scope="col">
                <span className="sr-only">Order and more</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {fields.map((field, index) => (
              <Fragment key={field.name}>
                <tr className={open === field.name ? '' : 'border-b border-hair'}>
                  <td className="max-w-44 truncate py-1 pr-3" title={field.name}>
                    <span className="font-mono text-small">{field.name}</span>
                    <span className="block text-small text-muted">
                      {field.type}
                      {field.name === key && ', key'}
                      {field.unit && `, ${field.unit}`}
                      {field.states && `, ${field.states.length} states`}
                    </span>
                  </td>
                  <td className="pr-3">
                    <input
                      aria-label={`Label of ${field.name}`}
                      value={field.label ?? ''}
                      placeholder={labelOf({ name: field.name })}
                      maxLength={500}
                      onChange={({ target }) => put(withPart(field, 'label', target.value))}
                      className="w-full border-b border-line bg-transparent px-1 py-0.5"
                    />
                  </td>
                  <td>
                    <input
                      type="checkbox"
                      aria-label={`Show ${field.name}`}
                      checked={!field.hidden}
                      onChange={() => put({ ...field, hidden: !field.hidden })}
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
                  <td className="text-right whitespace-nowrap">
                    <IconButton
                      name={`How ${field.name} is written`}
                      aria-expanded={open === field.name}
                      onClick={() => setOpen(open === field.name ? null : field.name)}
                      className={open === field.name ? 'text-accent' : ''}
                    >
                      <SlidersHorizontal className="size-4" />
                    </IconButton>
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
                {open === field.name && (
                  <tr className="border-b border-hair">
                    <td colSpan={5} className="pb-3">
                      <FieldDetails
                        field={field}
                        definition={definition}
                        id={id}
                        asText={
                          definition.request.kind === 'http'
                            ? readAsText(definition, field.name, world)
                            : null
                        }
                        onAsText={onChange}
                        onChange={put}
                      />
                    </td>
                  </tr>
                )}
              </Fragment>
            ))}
          </tbody>
        </table>
      </div>
    </Section>
  );
}

/** What is said of one field beyond its label: how it is written, its unit, what it means, its states. */
function FieldDetails({
  field,
  id,
  definition,
  asText,
  onAsText,
  onChange,
}: {
  field: Field;
  id: string;
  definition: DataSet;
  /** The data set with the field taken as text, where a service might give something else one day. */
  asText: DataSet | null;
  onAsText: (next: DataSet) => void;
  onChange: (next: Field) => void;
}) {
  return (
    <div className="flex flex-col gap-3 border-l-3 border-accent py-1 pl-4">
      <div className="grid grid-cols-[repeat(auto-fit,minmax(8rem,1fr))] gap-3">
        <FormatFields
          type={field.type}
          format={field.format}
          onChange={(format) => onChange(withPart(field, 'format', format))}
        />
        <TextField
          label="Unit"
          value={field.unit ?? ''}
          maxLength={60}
          onChange={({ target }) => onChange(withPart(field, 'unit', target.value))}
        />
        <TextField
          label="Identifies a"
          hint="One word, such as passage. Fields that say the same follow each other, from whichever source."
          value={field.refers ?? ''}
          maxLength={200}
          onChange={({ target }) => onChange(withPart(field, 'refers', target.value))}
        />
        <TextField
          label="Stands under"
          hint="In the detail of a record, with the other fields of the same."
          value={field.group ?? ''}
          maxLength={100}
          onChange={({ target }) => onChange(withPart(field, 'group', target.value))}
        />
      </div>
      <TextField
        label="What it means"
        value={field.description ?? ''}
        maxLength={2000}
        onChange={({ target }) => onChange(withPart(field, 'description', target.value))}
      />
      {asText && (
        <Button className="self-start" onClick={() => onAsText(asText)}>
          Take it as text, and what cannot be read beside it
        </Button>
      )}
      {isNumeric(field.type) && (
        <BandList
          of={labelOf(field)}
          bands={field.bands ?? []}
          onChange={(bands) => onChange(withPart(field, 'bands', bands))}
        />
      )}
      {field.type !== 'nested' && (
        <StateList
          field={field}
          definition={definition}
          id={id}
          onChange={(states) => onChange(withPart(field, 'states', states))}
        />
      )}
      {field.type === 'text' && !field.states && (
        <ColourList
          field={field}
          definition={definition}
          id={id}
          onChange={(colours) => onChange(withPart(field, 'colours', colours))}
        />
      )}
    </div>
  );
}
