import { useState } from 'react';
import {
  chartMarks,
  markWords,
  secondWords,
  stackings,
  stackingWords,
} from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { BinWidth } from '#core/value/bins/schema.ts';
import { isNumeric, isTemporal, labelOf } from '#core/value/field/value.ts';
import { asTyped, fromTyped } from '#core/value/number-style.ts';
import { Choices } from '../../ui/choices.tsx';
import { CheckField, TextField } from '../../ui/field.tsx';
import { groupable, groupChoices, groupName, groupOf } from '../group-choices.ts';
import { GroupOrderSlot } from '../group-order-slot.tsx';
import { BehindSlot, MeasureSlot } from '../number-slots.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';
import { TopSlot } from '../top-slot.tsx';
import { neighboursOf } from './neighbours.ts';

/** This many charts of one kind can be taken in at a glance. */
const usualCharts = 12;
const mostCharts = 48;

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
          choices={chartMarks
            .filter((mark) => mark !== 'dots' || dataSet.measures.length > 1)
            .map((value) => ({
              value,
              words: markWords[value],
              ...(value === 'dots' ? { more: 'One for each, by two measures' } : {}),
            }))}
          now={pane.mark}
          onChoose={(value) => put(drawnAs(pane, value, dataSet))}
        />
      );
    case 'by':
      return (
        <Choices
          choices={[...groupChoices(dataSet), ...rangeChoices(dataSet)]}
          now={pane.by.bins ? rangesOf(pane.by.field) : groupName(pane.by)}
          onChoose={(value) => {
            const field = ofRanges(value);
            if (field !== null) return put({ ...pane, by: { field, bins: {} }, order: 'label' });
            const by = groupOf(value);
            put({ ...pane, by, ...(by.unit || by.cycle ? { order: 'label' as const } : {}) });
          }}
        />
      );
    case 'width':
      return (
        <WidthSlot
          width={pane.by.bins?.width}
          onChange={(width) =>
            onChange({ ...pane, by: { field: pane.by.field, bins: width ? { width } : {} } })
          }
          onDone={onDone}
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
          onChoose={(value) =>
            put(value ? { ...alone, each: { field: value, count: usualCharts, rest: true } } : whole)
          }
        />
      );
    }
    case 'charts': {
      const { each } = pane;
      return (
        each && (
          <TopSlot
            top={{ count: each.count, rest: each.rest ?? false }}
            most={mostCharts}
            canShowAll={false}
            onChange={(top) => top && onChange({ ...pane, each: { ...each, ...top } })}
          />
        )
      );
    }
    case 'chartOrder': {
      if (!pane.each) return null;
      const { order, ...each } = pane.each;
      return (
        <GroupOrderSlot
          order={order ?? 'label'}
          group={{ field: each.field }}
          dataSet={dataSet}
          onChoose={(by) => put({ ...pane, each: by === 'value' ? { ...each, order: by } : each })}
        />
      );
    }
    case 'steps': {
      const { logarithmic: _, ...plain } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'on a plain scale' },
            {
              value: 'logarithmic',
              words: 'on a logarithmic scale',
              more: 'Equal steps are equal factors: 1, 10, 100. Nothing at or below zero can stand on it',
            },
          ]}
          now={pane.logarithmic ? 'logarithmic' : ''}
          onChoose={(value) => put(value ? { ...plain, logarithmic: true } : plain)}
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
    case 'running': {
      const { running: _, ...whole } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'each by itself' },
            {
              value: 'running',
              words: 'added up as time goes on',
              more: 'Each point is all that was up to then',
            },
          ]}
          now={pane.running ? 'running' : ''}
          onChoose={(value) => put(value ? { ...whole, running: true } : whole)}
        />
      );
    }
    case 'second': {
      const { second: _, ...whole } = pane;
      const { before: __, running: ___, ...alone } = whole;
      return (
        <Choices
          choices={[
            ...(pane.mark === 'dots' ? [] : [{ value: '', words: 'with no second measure' }]),
            ...dataSet.measures
              .filter(({ name }) => name !== pane.measure)
              .map(({ name, label }) => ({ value: name, words: secondWords(pane.mark, label) })),
          ]}
          now={pane.second ?? ''}
          onChoose={(value) => put(value ? { ...alone, second: value } : whole)}
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

/** A chart drawn otherwise; dots need a second measure, and stand by themselves. */
function drawnAs(pane: ChartPane, value: string, { measures }: DataSet): ChartPane {
  const mark = chartMarks.find((each) => each === value) ?? 'columns';
  if (mark !== 'dots') return { ...pane, mark };
  const { split: _, each: __, before: ___, running: ____, ...whole } = pane;
  const second = pane.second ?? measures.find(({ name }) => name !== pane.measure)?.name;
  return { ...whole, mark, ...(second === undefined ? {} : { second }) };
}

/** Ranges of a number as the value of a choice, and back. */
const rangesOf = (field: string): string => `${field}\nranges`;
const ofRanges = (value: string): string | null => /^(.*)\nranges$/.exec(value)?.[1] ?? null;

const rangeChoices = (dataSet: DataSet): { value: string; words: string; more: string }[] =>
  groupable(dataSet)
    .filter(({ type, name, states }) => isNumeric(type) && name !== dataSet.key && !states)
    .map((field) => ({
      value: rangesOf(field.name),
      words: `ranges of ${labelOf(field).toLowerCase()}`,
      more: 'How many have little of it, and how many much',
    }));

/** How wide the ranges of numbers are. */
function WidthSlot({
  width,
  onChange,
  onDone,
}: {
  width: string | undefined;
  onChange: (width: string | undefined) => void;
  onDone: () => void;
}) {
  const [typed, setTyped] = useState(width ?? '');
  const isGood = typed === '' || BinWidth.safeParse(typed).success;
  return (
    <div className="flex flex-col gap-3">
      <Choices
        choices={[
          { value: '', words: 'each as wide as suits', more: 'A round width, for some twenty ranges' },
        ]}
        now={width ?? ''}
        onChoose={() => {
          onChange(undefined);
          onDone();
        }}
      />
      <TextField
        label="Width of each range"
        inputMode="decimal"
        value={asTyped(typed)}
        maxLength={60}
        problem={isGood ? undefined : `A number above 0, such as 5 or ${asTyped('0.25')}`}
        onChange={({ target }) => {
          const next = fromTyped(target.value.trim());
          setTyped(next);
          if (BinWidth.safeParse(next).success) onChange(next);
        }}
      />
    </div>
  );
}

/** What its axes are called, and whether it shares its scale with the charts beside it. */
function Axes({ pane, onChange }: { pane: ChartPane; onChange: (pane: ChartPane) => void }) {
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
      {!pane.each && neighboursOf({ ...pane, ownScales: false }) !== null && (
        <CheckField
          label="A scale of its own, whatever the charts beside it use"
          checked={pane.ownScales ?? false}
          onChange={({ target }) => {
            const { ownScales: _, ...shared } = pane;
            onChange(target.checked ? { ...shared, ownScales: true } : shared);
          }}
        />
      )}
    </>
  );
}

export const chart: PaneBrief<ChartPane> = { Slot: slotOfOne(ChartSlot), More: Axes };
