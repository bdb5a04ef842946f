import { chartMarks } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { units } from '#core/value/period/units.ts';
import { directionWords } from '#core/words/order.ts';
import { Choices } from '../../ui/choices.tsx';
import { CheckField, TextField } from '../../ui/field.tsx';

import { BehindSlot, MeasureSlot } from '../number-slots.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';

const markWords = { columns: 'columns', bars: 'bars', line: 'a line', pie: 'a pie' };

/** The slots of a chart's brief: what is drawn, per what, split by what, in which order. */
function ChartSlot(props: OneSlotProps<ChartPane>) {
  if (props.slot === 'measure') return <MeasureSlot {...props} />;
  if (props.slot === 'behind') return <BehindSlot {...props} />;
  return <DrawingSlot {...props} />;
}

function DrawingSlot({ slot, pane, dataSet, onChange, onDone }: OneSlotProps<ChartPane>) {
  const fields = dataSet.fields.filter(
    ({ hidden, type, format }) => !hidden && type !== 'nested' && format?.kind !== 'picture',
  );
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
          choices={fields.flatMap((field) =>
            isTemporal(field.type)
              ? units
                  .filter((unit) => unit !== 'hour' || field.type === 'instant')
                  .map((unit) => ({
                    value: `${field.name}\n${unit}`,
                    words: `${unit} of ${labelOf(field).toLowerCase()}`,
                  }))
              : [{ value: field.name, words: labelOf(field).toLowerCase() }],
          )}
          now={pane.by.unit ? `${pane.by.field}\n${pane.by.unit}` : pane.by.field}
          onChoose={(value) => {
            const [field = '', unitName] = value.split('\n');
            const unit = units.find((each) => each === unitName);
            put({
              ...pane,
              by: { field, ...(unit ? { unit } : {}) },
              ...(unit ? { order: 'label' as const } : {}),
            });
          }}
        />
      );
    case 'split': {
      const { split: _, ...whole } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'nothing' },
            ...fields
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
      return <TopSlot pane={pane} onChange={onChange} />;
  }
}

function TopSlot({ pane, onChange }: { pane: ChartPane; onChange: (pane: ChartPane) => void }) {
  const { top, ...whole } = pane;
  return (
    <div className="flex flex-col gap-3">
      <CheckField
        label="Show them all"
        checked={!top}
        onChange={() => onChange(top ? whole : { ...whole, top: { count: 10, rest: true } })}
      />
      {top && (
        <>
          <TextField
            label="How many at the top"
            type="number"
            min={1}
            max={50}
            value={top.count}
            onChange={(event) =>
              onChange({
                ...pane,
                top: {
                  ...top,
                  count: Math.min(50, Math.max(1, Math.trunc(Number(event.target.value)) || 1)),
                },
              })
            }
          />
          <CheckField
            label="And the rest together"
            checked={top.rest}
            onChange={() => onChange({ ...pane, top: { ...top, rest: !top.rest } })}
          />
        </>
      )}
    </div>
  );
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
