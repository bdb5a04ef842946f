import type { DetailPane } from '#core/dashboard/pane/kinds/detail/schema.ts';
import { ColumnList } from '../../ui/column-list.tsx';
import { offeredColumns, type PaneBrief, type SlotProps } from '../slot.ts';

function DetailSlot({ pane, dataSet, onChange }: SlotProps<DetailPane>) {
  return (
    <ColumnList
      offered={offeredColumns(dataSet)}
      chosen={pane.fields}
      onChange={(fields) => fields.length > 0 && onChange({ ...pane, fields })}
    />
  );
}

export const detail: PaneBrief<DetailPane> = { Slot: DetailSlot };
