import type { FoundTable } from '#core/dataset/found.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { CheckField, SelectField, TextField } from '../ui/field.tsx';

type Input = DataSet['inputs'][number];
const types: readonly Input['type'][] = ['text', 'integer', 'decimal', 'boolean', 'date', 'instant'];

/** The inputs of a request, found in its text: type, whether a value is needed, a sample, and what supplies it. */
export function InputList({
  inputs,
  tables,
  written = (name) => `:${name}`,
  onChange,
}: {
  inputs: readonly Input[];
  /** How the request writes an input. */
  written?: (name: string) => string;
  tables: readonly FoundTable[];
  onChange: (inputs: Input[]) => void;
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
          className="grid items-end gap-3 border-b border-hair pb-3 sm:grid-cols-[8rem_8rem_1fr_1fr_auto]"
        >
          <p className="self-center font-mono">{written(input.name)}</p>
          <SelectField
            label={`Type of ${input.name}`}
            value={input.type}
            onChange={(event) =>
              set(input.name, { type: types.find((each) => each === event.target.value) ?? 'text' })
            }
          >
            {types.map((type) => (
              <option key={type}>{type}</option>
            ))}
          </SelectField>
          <TextField
            label={`Sample of ${input.name}`}
            hint="To design with; never on a reader’s page."
            value={input.sample ?? ''}
            onChange={(event) => set(input.name, { sample: event.target.value })}
          />
          <SelectField
            label="Supplied by"
            value={input.refers ?? ''}
            onChange={(event) => set(input.name, { refers: event.target.value || undefined })}
          >
            <option value="">the clause “{input.name}”</option>
            {keys.map((key) => (
              <option key={key} value={key}>
                the {key.split('.')[1]} record being looked at
              </option>
            ))}
          </SelectField>
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
