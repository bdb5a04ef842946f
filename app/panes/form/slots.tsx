import { aboutOf, formActions } from '#core/dashboard/pane/kinds/form/kind.ts';
import type { FormPane } from '#core/dashboard/pane/kinds/form/schema.ts';
import { SelectField } from '../../ui/select-field.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';

function FormSlot({ pane, dataSet, onChange, onDone }: OneSlotProps<FormPane>) {
  const actions = formActions(dataSet);
  if (actions.length === 0)
    return (
      <p className="max-w-60 text-small text-slate">
        The data set has no action that adds a record or asks for values of one. Actions are made on its page
        Changes.
      </p>
    );
  return (
    <SelectField
      label="By this action"
      value={pane.action}
      choices={actions.map((action) => ({
        value: action.name,
        words: `${action.label}: ${aboutOf(action) === 'new' ? 'adds one' : 'changes the picked one'}`,
      }))}
      onChange={(name) => {
        const action = actions.find((each) => each.name === name);
        if (action) onChange({ ...pane, action: name, about: aboutOf(action) });
        onDone();
      }}
    />
  );
}

export const form: PaneBrief<FormPane> = { Slot: slotOfOne(FormSlot) };
