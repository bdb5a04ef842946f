import type { ComponentType } from 'react';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { SlotProps } from './slot.ts';

/** A slot of a pane that shows records of one data set. */
export interface OneSlotProps<P extends Pane & PaneRecords> extends Omit<SlotProps<P>, 'dataSets'> {
  readonly dataSet: DataSet;
  readonly dataSetId: string;
}

/** The slots of a pane that shows records of one data set, given that one. */
export const slotOfOne = <P extends Pane & PaneRecords>(Slot: ComponentType<OneSlotProps<P>>) =>
  function SlotOfOne({ dataSets, ...props }: SlotProps<P>) {
    const dataSet = dataSets.get(props.pane.dataSet);
    return dataSet ? <Slot {...props} dataSet={dataSet} dataSetId={props.pane.dataSet} /> : null;
  };
