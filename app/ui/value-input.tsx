import type { ComponentProps } from 'react';
import type { ShownField } from '#core/dashboard/pane/shown.ts';
import { isNumeric, typingOf } from '#core/value/field/value.ts';
import { localOfInstant } from '#core/value/period/local.ts';
import { ChoiceBox } from './choice.tsx';
import { DayInput, MomentInput } from './day-input.tsx';

const yesAndNo = [
  { value: 'true', words: 'yes' },
  { value: 'false', words: 'no' },
];

/** What stands for blank among choices. */
const none = '';

/** A control for one value of a field, in canonical text; null is blank. A moment is typed as the desk’s clocks show it. */
export function ValueInput({
  field,
  choices: given = null,
  value,
  mayBeBlank = true,
  zone,
  onChange,
  className = '',
  ...named
}: {
  field: Pick<ShownField, 'type' | 'states'>;
  choices?: readonly { readonly value: string; readonly words: string }[] | null;
  value: string | null;
  mayBeBlank?: boolean;
  zone: string;
  onChange: (value: string | null) => void;
} & Omit<ComponentProps<'input'>, 'value' | 'onChange' | 'ref'>) {
  const states = field.states?.map(({ value: each, word }) => ({ value: each, words: word }));
  const choices = given ?? states ?? (field.type === 'boolean' ? yesAndNo : null);
  if (choices)
    return (
      <ChoiceBox
        {...(named.id ? { id: named.id } : {})}
        {...(named['aria-label'] ? { 'aria-label': named['aria-label'] } : {})}
        className={className}
        value={value ?? none}
        choices={[
          ...(mayBeBlank || value === null
            ? [{ value: none, words: mayBeBlank ? 'blank' : 'choose one' }]
            : []),
          ...choices,
        ]}
        onChange={(chosen) => onChange(chosen === none ? null : chosen)}
      />
    );
  if (field.type === 'date')
    return <DayInput {...named} className={className} value={value} zone={zone} onChange={onChange} />;
  if (field.type === 'instant')
    return (
      <MomentInput
        {...named}
        className={className}
        value={value?.endsWith('Z') ? localOfInstant(value, zone) : value}
        zone={zone}
        onChange={onChange}
      />
    );
  const [toShown, toValue] = typingOf(field.type);
  return (
    <input
      {...named}
      className={className}
      {...(isNumeric(field.type) ? { inputMode: 'decimal' as const } : {})}
      value={toShown(value ?? '')}
      onChange={({ target }) => onChange(target.value === '' ? null : toValue(target.value))}
    />
  );
}
