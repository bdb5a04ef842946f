import { useId } from 'react';
import { ChoiceBox, type ChoiceProps } from './choice.tsx';
import { box, described, Frame, type Labelled } from './labelled.tsx';

/** One of some choices, under its label. */
export function SelectField<V extends string>({
  label,
  hint,
  problem,
  id: given,
  ...props
}: Labelled & Omit<ChoiceProps<V>, 'className' | 'aria-label'>) {
  const ownId = useId();
  const id = given ?? ownId;
  return (
    <Frame label={label} hint={hint} problem={problem} id={id}>
      <ChoiceBox className={box} {...props} id={id} {...described(id, { label, hint, problem })} />
    </Frame>
  );
}
