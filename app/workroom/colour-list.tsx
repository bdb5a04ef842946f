import X from 'lucide-react/icons/x';
import type { DataSet } from '#core/dataset/schema.ts';
import { colourNames, type Field, mostColours, type ValueColour } from '#core/value/field/field.ts';
import { labelOf } from '#core/value/field/value.ts';
import { IconButton } from '../ui/button.tsx';
import { ChoiceBox } from '../ui/choice.tsx';
import { coloursFor } from './field-state.ts';
import { FoundValues } from './found-values.tsx';
import { useFoundValues } from './use-found-values.ts';

const box = 'w-full border-b border-line bg-transparent px-1 py-0.5';

/** The colours that a field's values have wherever they are drawn. */
export function ColourList({
  field,
  id,
  definition,
  onChange,
}: {
  field: Field;
  /** Of the data set. */
  id: string;
  definition: DataSet;
  onChange: (colours: ValueColour[]) => void;
}) {
  const colours = field.colours ?? [];
  const label = labelOf(field);
  const put = (at: number, change: Partial<ValueColour>): void =>
    onChange(colours.map((each, index) => (index === at ? { ...each, ...change } : each)));
  const found = useFoundValues(field.name, { id, definition }, (values) => {
    const fresh = coloursFor(colours, values);
    if (fresh.length > 0) onChange([...colours, ...fresh]);
  });
  return (
    <fieldset className="min-w-0">
      <legend className="text-small font-strong text-slate">Colours</legend>
      {colours.length === 0 && (
        <p className="text-small text-muted">
          A value that has a colour is drawn in it on every chart; others take the next ones that are free.
        </p>
      )}
      {colours.map(({ value, colour }, index) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: a value being typed has no other identity
          key={index}
          className="grid grid-cols-[1fr_1fr_auto_auto] items-center gap-2 py-0.5"
        >
          <input
            aria-label={`Value ${index + 1} of ${label} with a colour`}
            value={value}
            maxLength={200}
            onChange={({ target }) => put(index, { value: target.value })}
            className={`${box} font-mono text-small`}
          />
          <ChoiceBox
            aria-label={`Colour of ${value || `value ${index + 1}`}`}
            value={String(colour)}
            onChange={(chosen) => put(index, { colour: Number(chosen) })}
            className={`${box} bg-sheet`}
            choices={colourNames.map((words, at) => ({ value: String(at + 1), words }))}
          />
          <span aria-hidden="true" className="size-3" style={{ background: `var(--series-${colour})` }} />
          <IconButton
            name={`Remove the colour of ${value || `value ${index + 1}`}`}
            onClick={() => onChange(colours.filter((_, at) => at !== index))}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      <FoundValues
        one="A colour"
        onAdd={
          colours.length < mostColours
            ? () => onChange([...colours, { value: '', colour: 1 + (colours.length % colourNames.length) }])
            : null
        }
        found={found}
        most={mostColours}
        tooMany={`It has more than ${mostColours} different values, more than colours can tell apart.`}
      />
    </fieldset>
  );
}
