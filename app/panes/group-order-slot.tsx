import { groupOrderWords } from '#core/dashboard/pane/level-words.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { Choices } from '../ui/choices.tsx';

type GroupOrder = 'label' | 'value';

/** Whether groups stand by their numbers, the highest first, or in their own order. */
export function GroupOrderSlot({
  order,
  group,
  dataSet,
  onChoose,
}: {
  order: GroupOrder;
  group: Parameters<typeof groupOrderWords>[0];
  dataSet: DataSet;
  onChoose: (order: GroupOrder) => void;
}) {
  return (
    <Choices
      choices={[
        { value: 'value', words: 'highest first' },
        { value: 'label', words: groupOrderWords(group, dataSet) },
      ]}
      now={order}
      onChoose={(value) => onChoose(value === 'label' ? 'label' : 'value')}
    />
  );
}
