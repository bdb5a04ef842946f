import { chartMarks } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { directionWords } from '#core/words/order.ts';
import { Choices } from '../../ui/choices.tsx';
import { TextField } from '../../ui/field.tsx';
import { groupable, groupChoices, groupName, groupOf } from '../group-choices.ts';
import { BehindSlot, MeasureSlot } from '../number-slots.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';
import { TopSlot } from '../top-slot.tsx';

const markWords = { columns: 'columns', bars: 'bars', line: 'a line', pie: 'a pie' };

/** The slots of a chart's brief: what is drawn, per what, split by what, in which order. */
function ChartSlot(props: OneSlotProps<ChartPane>) {
  if (props.slot === 'measure') return <MeasureSlot {...props} />;
  if (props.slot === 'behind') return <BehindSlot {...props} />;
  return <DrawingSlot {...props} />;
}

function DrawingSlot({ slot, pane, dataSet, onChange, onDone }: OneSlotProps<ChartPane>) {
  const put = (next: ChartPane): void => {
    onChange(next);
    onDone();
  };
  switch (slot) {
    case 'mark':
      return (
        <Choices
          choices={chartMarks.map((value) => ({ value, words: markWords[value] }))}
          now={pane.mark}
          onChoose={(value) => put({ ...pane, mark: chartMarks.find((mark) => mark === value) ?? 'columns' })}
        />
      );
    case 'by':
      return (
        <Choices
          choices={groupChoices(dataSet)}
          now={groupName(pane.by)}
          onChoose={(value) => {
            const by = groupOf(value);
            put({ ...pane, by, ...(by.unit ? { order: 'label' as const } : {}) });
          }}
        />
      );
    case 'split': {
      const { split: _, ...whole } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'nothing' },
            ...groupable(dataSet)
              .filter(
                ({ type, name }) => !isTemporal(type) && name !== pane.by.field && name !== dataSet.title,
              )
              .map((field) => ({ value: field.name, words: labelOf(field).toLowerCase() })),
          ]}
          now={pane.split ?? ''}
          onChoose={(value) => put(value ? { ...whole, split: value } : whole)}
        />
      );
    }
    case 'order':
      return (
        <Choices
          choices={[
            { value: 'value', words: 'highest first' },
            {
              value: 'label',
              words: directionWords(
                dataSet.fields.find(({ name }) => name === pane.by.field),
                false,
              ),
            },
          ]}
          now={pane.order}
          onChoose={(value) => put({ ...pane, order: value === 'label' ? 'label' : 'value' })}
        />
      );
    default:
      return (
        <TopSlot
          top={pane.top}
          most={50}
          onChange={(top) => {
            const { top: _, ...whole } = pane;
            onChange(top ? { ...whole, top } : whole);
          }}
        />
      );
  }
}

/** What its axes are called. */
function AxisTitles({ pane, onChange }: { pane: ChartPane; onChange: (pane: ChartPane) => void }) {
  return (
    <>
      <TextField
        label="Horizontal axis title"
        value={pane.across ?? ''}
        maxLength={200}
        onChange={(event) => onChange({ ...pane, across: event.target.value || undefined })}
      />
      <TextField
        label="Vertical axis title"
        value={pane.up ?? ''}
        maxLength={200}
        onChange={(event) => onChange({ ...pane, up: event.target.value || undefined })}
      />
    </>
  );
}

export const chart: PaneBrief<ChartPane> = { Slot: slotOfOne(ChartSlot), More: AxisTitles };
