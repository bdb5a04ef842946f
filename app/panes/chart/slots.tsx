import { chartMarks, markWords, stackings, stackingWords } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { Choices } from '../../ui/choices.tsx';
import { TextField } from '../../ui/field.tsx';
import { groupable, groupChoices, groupName, groupOf } from '../group-choices.ts';
import { GroupOrderSlot } from '../group-order-slot.tsx';
import { BehindSlot, MeasureSlot } from '../number-slots.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';
import { TopSlot } from '../top-slot.tsx';

/** So many charts of one kind can be taken in. */
const mostCharts = 12;

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
            put({ ...pane, by, ...(by.unit || by.cycle ? { order: 'label' as const } : {}) });
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
    case 'stack':
      return (
        <Choices
          choices={stackings
            .filter((stacking) => stacking !== 'beside' || pane.mark !== 'area')
            .map((value) => ({ value, words: stackingWords[value] }))}
          now={pane.stack ?? 'stacked'}
          onChoose={(value) =>
            put({ ...pane, stack: stackings.find((stacking) => stacking === value) ?? 'stacked' })
          }
        />
      );
    case 'each': {
      const { each: _, ownScales: __, ...whole } = pane;
      const { top: ___, before: ____, ...alone } = whole;
      return (
        <Choices
          choices={[
            { value: '', words: 'once for all' },
            ...groupable(dataSet)
              .filter(
                ({ type, name }) =>
                  !isTemporal(type) &&
                  name !== pane.by.field &&
                  name !== pane.split &&
                  name !== dataSet.title &&
                  name !== dataSet.key,
              )
              .map((field) => ({
                value: field.name,
                words: `once for each ${labelOf(field).toLowerCase()}`,
              })),
          ]}
          now={pane.each?.field ?? ''}
          onChoose={(value) => put(value ? { ...alone, each: { field: value, count: mostCharts } } : whole)}
        />
      );
    }
    case 'scale': {
      const { ownScales: _, ...whole } = pane;
      return (
        <Choices
          choices={[
            { value: 'one', words: 'on one scale', more: 'So that they compare' },
            {
              value: 'own',
              words: 'each on a scale of its own',
              more: 'To see how each goes; they do not compare',
            },
          ]}
          now={pane.ownScales ? 'own' : 'one'}
          onChoose={(value) => put(value === 'own' ? { ...whole, ownScales: true } : whole)}
        />
      );
    }
    case 'before': {
      const { before: _, ...whole } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'without the period before' },
            { value: 'before', words: 'with the period before behind it', more: 'As a thin grey line' },
          ]}
          now={pane.before ? 'before' : ''}
          onChoose={(value) => put(value ? { ...whole, before: true } : whole)}
        />
      );
    }
    case 'order':
      return (
        <GroupOrderSlot
          order={pane.order}
          group={pane.by}
          dataSet={dataSet}
          onChoose={(order) => put({ ...pane, order })}
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
