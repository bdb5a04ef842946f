import type { Format } from '#core/value/field/format.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { chosenFormat, formatChoice, formatChoices, mostDecimals } from '#core/value/format/choices.ts';
import { TextField } from './field.tsx';
import { SelectField } from './select-field.tsx';

/** How values of a type are written; how many decimals, where they have any. */
export function FormatFields({
  type,
  format,
  usual = 'as its type is',
  onChange,
}: {
  type: FieldType;
  format: Format | undefined;
  usual?: string;
  onChange: (format: Format | undefined) => void;
}) {
  const choices = formatChoices(type);
  if (choices.length === 0) return null;
  const kind = format?.kind;
  return (
    <>
      <SelectField
        label="Written as"
        value={formatChoice(format)}
        onChange={(chosen) => onChange(chosenFormat(type, chosen, format))}
        choices={[{ value: '', words: usual }, ...choices]}
      />
      {format && (kind === 'number' || kind === 'percent') && (
        <TextField
          label="Decimals"
          type="number"
          min={0}
          max={mostDecimals[kind]}
          placeholder={kind === 'number' ? 'up to 2' : 'none'}
          value={format.decimals ?? ''}
          onChange={({ target }) => {
            const { decimals: _, ...rest } = format;
            const decimals = Math.min(mostDecimals[kind], Math.max(0, Math.trunc(target.valueAsNumber)));
            onChange(Number.isNaN(decimals) ? rest : { ...rest, decimals });
          }}
        />
      )}
    </>
  );
}
