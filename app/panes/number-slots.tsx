import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import { measureWords } from '#core/words/measure.ts';
import { Choices } from '../ui/choices.tsx';
import { ColumnList } from '../ui/column-list.tsx';
import { here } from '../ui/here.ts';
import type { OneSlotProps } from './of-one.tsx';
import { offeredColumns } from './slot.ts';

/* The slots of panes that show numbers. */

type NumberPane = Pane & PaneRecords & { readonly measure: string; readonly behind?: string[] | undefined };

export function MeasureSlot<P extends NumberPane>({
  pane,
  dataSet,
  onChange,
  onDone,
  dataSetId,
}: OneSlotProps<P>) {
  return (
    <>
      <Choices
        choices={dataSet.measures.map((measure) => ({
          value: measure.name,
          words: measure.label,
          more: measureWords(measure, dataSet),
        }))}
        now={pane.measure}
        onChoose={(measure) => {
          onChange({ ...pane, measure });
          onDone();
        }}
      />
      <p className="mt-3 text-small text-muted">
        Another number is defined once, in{' '}
        <a href={here(`/workroom/data-sets/${dataSetId}`)} className="text-accent underline">
          the data set
        </a>
        .
      </p>
    </>
  );
}

/** The fields that the records behind a number show. */
export function BehindSlot<P extends NumberPane>({ pane, dataSet, onChange }: OneSlotProps<P>) {
  return (
    <ColumnList
      offered={offeredColumns(dataSet)}
      chosen={pane.behind ?? []}
      onChange={(fields) => onChange({ ...pane, behind: fields })}
    />
  );
}
