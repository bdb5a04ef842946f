import X from 'lucide-react/icons/x';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field, State } from '#core/value/field/field.ts';
import { tones } from '#core/value/field/types.ts';
import { labelOf } from '#core/value/field/value.ts';
import { IconButton } from '../ui/button.tsx';
import { ChoiceBox, plainChoices } from '../ui/choice.tsx';
import { StateMark } from '../ui/state-mark.tsx';
import { mostStates, statesFor } from './field-state.ts';
import { FoundValues } from './found-values.tsx';
import { useFoundValues } from './use-found-values.ts';

const box = 'w-full border-b border-line bg-transparent px-1 py-0.5';

/** The states that a field's values stand for: a word and a tone for each, which also gives the shape. */
export function StateList({
  field,
  id,
  definition,
  onChange,
}: {
  field: Field;
  /** Of the data set. */
  id: string;
  definition: DataSet;
  onChange: (states: State[]) => void;
}) {
  const put = (at: number, change: Partial<State>): void =>
    onChange(states.map((state, index) => (index === at ? { ...state, ...change } : state)));
  const label = labelOf(field);
  const states = field.states ?? [];
  const found = useFoundValues(field.name, { id, definition }, (values) => {
    const fresh = statesFor(states, values);
    if (fresh.length > 0) onChange([...states, ...fresh]);
  });
  return (
    <fieldset className="min-w-0">
      <legend className="text-small font-strong text-slate">States</legend>
      {states.length === 0 && (
        <p className="text-small text-muted">
          A value that stands for a state reads as a word with a shape and a tone.
        </p>
      )}
      {states.map((state, index) => (
        <div
          // biome-ignore lint/suspicious/noArrayIndexKey: a state being typed has no other identity
          key={index}
          className="grid grid-cols-[1fr_1fr_auto_auto_auto] items-center gap-2 py-0.5"
        >
          <input
            aria-label={`Value ${index + 1} of ${label}`}
            value={state.value}
            maxLength={200}
            onChange={({ target }) => put(index, { value: target.value })}
            className={`${box} font-mono text-small`}
          />
          <input
            aria-label={`Word for ${state.value || `value ${index + 1}`}`}
            value={state.word}
            maxLength={200}
            required
            onChange={({ target }) => put(index, { word: target.value })}
            className={box}
          />
          <ChoiceBox
            aria-label={`Tone of ${state.value || `value ${index + 1}`}`}
            value={state.tone}
            onChange={(chosen) => put(index, { tone: chosen })}
            className={`${box} bg-sheet`}
            choices={plainChoices(tones)}
          />
          <StateMark tone={state.tone} word="" />
          <IconButton
            name={`Remove the state ${state.word || index + 1}`}
            onClick={() => onChange(states.filter((_, at) => at !== index))}
          >
            <X className="size-4" />
          </IconButton>
        </div>
      ))}
      <FoundValues
        one="A state"
        onAdd={() => onChange([...states, { value: '', word: '', tone: 'moving' }])}
        found={found}
        most={mostStates}
        tooMany={`It has more than ${mostStates} different values, so they cannot be states.`}
      />
    </fieldset>
  );
}
