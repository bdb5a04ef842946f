import type { CardPane } from '#core/dashboard/pane/kinds/card/schema.ts';
import { Choices } from '../../ui/choices.tsx';
import { groupChoices, groupName, groupOf } from '../group-choices.ts';
import { BehindSlot, MeasureSlot } from '../number-slots.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';

function CardSlot(props: OneSlotProps<CardPane>) {
  if (props.slot === 'measure') return <MeasureSlot {...props} />;
  if (props.slot === 'behind') return <BehindSlot {...props} />;
  if (props.slot === 'trend') return <TrendSlot {...props} />;
  return <ComparisonSlot {...props} />;
}

function ComparisonSlot({ pane, onChange, onDone }: OneSlotProps<CardPane>) {
  return (
    <Choices
      choices={[
        { value: 'none', words: 'nothing' },
        { value: 'whole', words: 'the period before', more: 'Today against all of yesterday' },
        {
          value: 'sameTime',
          words: 'the same time in the period before',
          more: 'Today so far against yesterday up to now',
        },
      ]}
      now={pane.against}
      onChoose={(value) => {
        onChange({ ...pane, against: value === 'whole' || value === 'sameTime' ? value : 'none' });
        onDone();
      }}
    />
  );
}

/** Trends that fit a card: enough units to see how it goes, few enough to be told apart. */
const trendCounts = { hour: 24, day: 14, week: 12, month: 12, quarter: 8, year: 5 } as const;

/** Over which units of time its trend is drawn. */
function TrendSlot({ pane, dataSet, onChange, onDone }: OneSlotProps<CardPane>) {
  const { trend, ...rest } = pane;
  const choices = groupChoices(dataSet).filter(({ value }) => groupOf(value).unit);
  return (
    <Choices
      choices={[
        { value: '', words: 'without its trend' },
        ...choices.map(({ value, words }) => {
          const { unit } = groupOf(value);
          return { value, words: unit ? `${words}, the last ${trendCounts[unit]}` : words };
        }),
      ]}
      now={trend ? groupName(trend) : ''}
      onChoose={(value) => {
        const { field, unit } = groupOf(value);
        onChange(unit ? { ...rest, trend: { field, unit, count: trendCounts[unit] } } : rest);
        onDone();
      }}
    />
  );
}

export const card: PaneBrief<CardPane> = { Slot: slotOfOne(CardSlot) };
