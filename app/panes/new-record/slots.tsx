import { addingActions } from '#core/dashboard/pane/kinds/new-record/kind.ts';
import type { NewRecordPane } from '#core/dashboard/pane/kinds/new-record/schema.ts';
import { SelectField } from '../../ui/select-field.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';

function NewRecordSlot({ pane, dataSet, onChange, onDone }: OneSlotProps<NewRecordPane>) {
  const actions = addingActions(dataSet);
  if (actions.length === 0)
    return (
      <p className="max-w-60 text-small text-slate">
        The data set has no action that adds a record. One is made on its page Changes.
      </p>
    );
  return (
    <SelectField
      label="By this action"
      value={pane.action}
      choices={actions.map(({ name, label }) => ({ value: name, words: label }))}
      onChange={(action) => {
        onChange({ ...pane, action });
        onDone();
      }}
    />
  );
}

export const newRecord: PaneBrief<NewRecordPane> = { Slot: slotOfOne(NewRecordSlot) };
