import { useId, useState } from 'react';
import type { FormPart } from '#sources/form.ts';
import { TextAreaField, TextField } from '../ui/field.tsx';
import { SelectField } from '../ui/select-field.tsx';

/** What stands in a field, and what is wrong with it. */
export type FieldOf = (name: string) => { name: string; defaultValue?: string; problem?: string };

interface Props {
  readonly parts: readonly FormPart[];
  readonly field: FieldOf;
  /** The source that is changed. */
  readonly change: string | null;
}

/** A form that was described as data. */
export function FormParts({ parts, field, change }: Props) {
  // Parts that depend on a choice follow it as it is made.
  const [chosen, setChosen] = useState<Readonly<Record<string, string>>>({});
  return <Parts {...{ parts, field, change, chosen, onChoose: setChosen }} />;
}

interface PartsProps extends Props {
  readonly chosen: Readonly<Record<string, string>>;
  readonly onChoose: (chosen: Readonly<Record<string, string>>) => void;
}

function Parts({ parts, ...about }: PartsProps) {
  return parts.map((part, at) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a form do not change places
    <Part key={at} part={part} {...about} />
  ));
}

function Part({ part, ...about }: { part: FormPart } & Omit<PartsProps, 'parts'>) {
  const { field, change, chosen, onChoose } = about;
  switch (part.part) {
    case 'text':
      return <TextPart part={part} field={field} />;
    case 'secret':
      return <SecretField label={part.label} field={field} change={change} />;
    case 'choice': {
      const { name, label, choices } = part;
      const now = chosen[name] ?? field(name).defaultValue ?? choices[0]?.value ?? '';
      return (
        <SelectField
          label={label}
          {...field(name)}
          defaultValue={now}
          onChange={(value) => onChoose({ ...chosen, [name]: value })}
          choices={[...choices]}
        />
      );
    }
    case 'row':
      return (
        <div className={`grid gap-3 ${part.wide ? 'grid-cols-[1fr_7rem]' : 'grid-cols-2'}`}>
          <Parts parts={part.parts} {...about} />
        </div>
      );
    case 'when': {
      const now = chosen[part.name] ?? field(part.name).defaultValue;
      return now === part.is ? <Parts parts={part.parts} {...about} /> : null;
    }
    case 'certificate':
      return <AuthorityField name={part.name} field={field} />;
    case 'words':
      return <p className="text-slate">{part.words}</p>;
  }
}

function TextPart({ part, field }: { part: Extract<FormPart, { part: 'text' }>; field: FieldOf }) {
  const list = useId();
  const { name, label, hint, usual, mode, among } = part;
  const given = field(name);
  return (
    <>
      <TextField
        label={label}
        hint={hint}
        {...given}
        {...(mode ? { inputMode: mode } : {})}
        {...(usual === undefined ? {} : { defaultValue: given.defaultValue || usual })}
        {...(among ? { list } : {})}
        autoComplete="off"
      />
      {among && (
        <datalist id={list}>
          {among.map((each) => (
            <option key={each} value={each} />
          ))}
        </datalist>
      )}
    </>
  );
}

function SecretField({ label, field, change }: { label: string; field: FieldOf; change: string | null }) {
  const { problem } = field('secret');
  return (
    <TextField
      label={label}
      name="secret"
      type="password"
      autoComplete="new-password"
      hint={change ? 'Left empty, it stays as it is.' : undefined}
      problem={problem}
    />
  );
}

/** Behind a line of its own: few need it. */
function AuthorityField({ name, field }: { name: string; field: FieldOf }) {
  const { defaultValue = '', problem, ...named } = field(name);
  return (
    <details open={defaultValue !== '' || problem !== undefined}>
      <summary className="cursor-default text-small text-slate hover:text-accent">
        Its certificate is from an authority of our own
      </summary>
      <div className="mt-3">
        <TextAreaField
          label="The authority’s certificate, in PEM"
          hint="It is trusted for this source only. A private key never belongs here."
          rows={5}
          className="font-mono text-small"
          spellCheck={false}
          {...named}
          defaultValue={defaultValue}
          problem={problem}
        />
      </div>
    </details>
  );
}
