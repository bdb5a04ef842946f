import type { CardPane } from '#core/dashboard/pane/kinds/card/schema.ts';
import { Choices } from '../../ui/choices.tsx';
import { BehindSlot, MeasureSlot } from '../number-slots.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import type { PaneBrief } from '../slot.ts';

function CardSlot(props: OneSlotProps<CardPane>) {
  if (props.slot === 'measure') return <MeasureSlot {...props} />;
  if (props.slot === 'behind') return <BehindSlot {...props} />;
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

export const card: PaneBrief<CardPane> = { Slot: slotOfOne(CardSlot) };
