import type { FoundTable } from '#core/dataset/found.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { FieldChoice } from '#server/store/data-sets.ts';
import { plainChoices } from '../ui/choice.tsx';
import { CheckField, TextField } from '../ui/field.tsx';
import { SelectField } from '../ui/select-field.tsx';

type Input = DataSet['inputs'][number];
const types: readonly Input['type'][] = ['text', 'integer', 'decimal', 'boolean', 'date', 'instant'];

/** The inputs of a request, found in its text: type, whether a value is needed, a sample, and what supplies it. */
export function InputList({
  inputs,
  tables,
  choices,
  written = (name) => `:${name}`,
  onChange,
  onRename,
}: {
  inputs: readonly Input[];
  /** How the request writes an input. */
  written?: (name: string) => string;
  tables: readonly FoundTable[];
  choices: readonly FieldChoice[];
  onChange: (inputs: Input[]) => void;
  /** Gives an input another name wherever it is used. */
  onRename: (from: string, to: string) => void;
}) {
  const set = (name: string, change: Partial<Input>): void =>
    onChange(inputs.map((input) => (input.name === name ? { ...input, ...change } : input)));
  const keys = tables.flatMap((table) =>
    table.key.length === 1 ? [`${table.schema}.${table.name}.${table.key[0]}`] : [],
  );
  if (inputs.length === 0) return null;
  return (
    <ul className="mt-3 flex flex-col gap-3">
      {inputs.map((input) => (
        <li
          key={input.name}
          className="grid items-end gap-3 border-b border-hair pb-3 sm:grid-cols-2 lg:grid-cols-[10rem_8rem_1fr_1fr]"
        >
          <TextField
            label={`Written ${written(input.name)}`}
            className="font-mono"
            title="Another name is carried through wherever it is used"
            defaultValue={input.name}
            maxLength={60}
            onBlur={(event) => {
              const to = event.target.value.trim();
              const isFree = /^[a-z_][a-z0-9_]*$/i.test(to) && !inputs.some(({ name }) => name === to);
              if (isFree) onRename(input.name, to);
              else event.target.value = input.name;
            }}
          />
          <SelectField
            label={`Type of ${input.name}`}
            value={input.type}
            onChange={(chosen) => set(input.name, { type: chosen })}
            choices={plainChoices(types)}
          />
          <TextField
            label={`Sample of ${input.name}`}
            hint="To design with; never on a reader’s page."
            value={input.sample ?? ''}
            onChange={(event) => set(input.name, { sample: event.target.value })}
          />
          <TextField
            label={`Unless supplied, ${input.name} is`}
            hint="Empty: no value."
            value={input.initially ?? ''}
            onChange={(event) => set(input.name, { initially: event.target.value || undefined })}
          />
          <SelectField
            label="Supplied by"
            value={input.refers ?? ''}
            onChange={(chosen) => set(input.name, { refers: chosen || undefined })}
            choices={[
              { value: '', words: `the clause “${input.name}”` },
              ...keys.map((key) => ({
                value: key,
                words: `the ${key.split('.')[1]} record being looked at`,
              })),
            ]}
          />
          <SelectField
            label={`Values that ${input.name} may have`}
            value={input.allowed ? `${input.allowed.dataSet} ${input.allowed.field}` : ''}
            onChange={(chosen) => {
              const [dataSet = '', ...field] = chosen.split(' ');
              set(input.name, { allowed: dataSet ? { dataSet, field: field.join(' ') } : undefined });
            }}
            choices={[
              { value: '', words: 'any' },
              ...choices.flatMap((choice) =>
                choice.fields.map((field) => ({
                  value: `${choice.id} ${field.name}`,
                  words: `${choice.name}: ${field.label}`,
                  group: choice.name,
                })),
              ),
            ]}
          />
          <CheckField
            label="Needed"
            checked={input.required}
            onChange={() => set(input.name, { required: !input.required })}
          />
        </li>
      ))}
    </ul>
  );
}
