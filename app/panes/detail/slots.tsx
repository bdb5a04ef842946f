import type { DetailPane } from '#core/dashboard/pane/kinds/detail/schema.ts';
import { ColumnList } from '../../ui/column-list.tsx';
import { DoingSlot } from '../doing-slot.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import { offeredColumns, type PaneBrief } from '../slot.ts';

function DetailSlot({ pane, dataSet, onChange }: OneSlotProps<DetailPane>) {
  return (
    <ColumnList
      offered={offeredColumns(dataSet)}
      chosen={pane.fields}
      onChange={(fields) => fields.length > 0 && onChange({ ...pane, fields })}
    />
  );
}

export const detail: PaneBrief<DetailPane> = { Slot: slotOfOne(DetailSlot), More: DoingSlot };
