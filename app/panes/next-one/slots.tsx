import type { NextOnePane } from '#core/dashboard/pane/kinds/next-one/schema.ts';
import { ColumnList } from '../../ui/column-list.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import { OrderSlot } from '../order-slot.tsx';
import { offeredColumns, type PaneBrief } from '../slot.ts';

const mostFields = 6;

function NextOneSlot({ slot, pane, dataSet, onChange }: OneSlotProps<NextOnePane>) {
  if (slot === 'order')
    return (
      <OrderSlot
        order={pane.order}
        dataSet={dataSet}
        least={1}
        onChange={(order) => onChange({ ...pane, order })}
      />
    );
  return (
    <ColumnList
      offered={offeredColumns(dataSet)}
      chosen={pane.fields}
      onChange={(fields) => onChange({ ...pane, fields: fields.slice(0, mostFields) })}
    />
  );
}

export const nextOne: PaneBrief<NextOnePane> = { Slot: slotOfOne(NextOneSlot) };
