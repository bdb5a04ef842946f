import {
  type CrosstabPane,
  cellWays,
  type Level,
  mostLevels,
  mostMeasures,
} from '#core/dashboard/pane/kinds/crosstab/schema.ts';
import { cellWords } from '#core/dashboard/pane/kinds/crosstab/words.ts';
import { Choices } from '../../ui/choices.tsx';
import { ColumnList } from '../../ui/column-list.tsx';
import { groupChoices, groupName, groupOf } from '../group-choices.ts';
import { GroupOrderSlot } from '../group-order-slot.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import { offeredColumns, type PaneBrief } from '../slot.ts';
import { TopSlot } from '../top-slot.tsx';

/** The slots of its brief: which numbers, by what down and across, how they are written, in which order. */
function CrosstabSlot({ slot, pane, dataSet, onChange, onDone }: OneSlotProps<CrosstabPane>) {
  switch (slot) {
    case 'measures':
      return (
        <ColumnList
          offered={dataSet.measures}
          chosen={pane.measures}
          onChange={(measures) =>
            measures.length > 0 && measures.length <= mostMeasures && onChange({ ...pane, measures })
          }
        />
      );
    case 'down':
      return (
        <LevelsSlot
          dataSet={dataSet}
          levels={pane.down}
          taken={pane.across}
          onChange={(down) => down.length > 0 && onChange({ ...pane, down })}
        />
      );
    case 'across':
      return (
        <LevelsSlot
          dataSet={dataSet}
          levels={pane.across}
          taken={pane.down}
          onChange={(across) => onChange({ ...pane, across })}
        />
      );
    case 'cells':
      return (
        <Choices
          choices={cellWays.map((value) => ({ value, words: cellWords[value] }))}
          now={pane.cells}
          onChoose={(value) => {
            onChange({ ...pane, cells: cellWays.find((way) => way === value) ?? 'value' });
            onDone();
          }}
        />
      );
    case 'shaded': {
      const { shaded: _, ...plain } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'all alike' },
            {
              value: 'shaded',
              words: 'the darker the higher',
              more: 'So that what stands out is seen at once',
            },
          ]}
          now={pane.shaded ? 'shaded' : ''}
          onChoose={(value) => {
            onChange(value ? { ...plain, shaded: true } : plain);
            onDone();
          }}
        />
      );
    }
    case 'order':
      return (
        <GroupOrderSlot
          order={pane.order}
          group={pane.down[0]}
          dataSet={dataSet}
          onChoose={(order) => {
            onChange({ ...pane, order });
            onDone();
          }}
        />
      );
    case 'top':
      return (
        <TopSlot
          top={pane.top}
          most={200}
          onChange={(top) => {
            const { top: _, ...whole } = pane;
            onChange(top ? { ...whole, top } : whole);
          }}
        />
      );
    default:
      return (
        <ColumnList
          offered={offeredColumns(dataSet)}
          chosen={pane.behind ?? []}
          onChange={(behind) => onChange({ ...pane, behind })}
        />
      );
  }
}

/** The levels of a side, the outermost first. What stands on the other side cannot stand here as well. */
function LevelsSlot({
  dataSet,
  levels,
  taken,
  onChange,
}: Pick<OneSlotProps<CrosstabPane>, 'dataSet'> & {
  levels: readonly Level[];
  taken: readonly Level[];
  onChange: (levels: Level[]) => void;
}) {
  const elsewhere = new Set(taken.map(groupName));
  return (
    <>
      <p className="mb-2 text-small text-muted">At most {mostLevels} levels, the outermost first.</p>
      <ColumnList
        offered={groupChoices(dataSet)
          .filter(({ value }) => !elsewhere.has(value))
          .map(({ value, words }) => ({ name: value, label: words }))}
        chosen={levels.map(groupName)}
        onChange={(names) => names.length <= mostLevels && onChange(names.map(groupOf))}
      />
    </>
  );
}

export const crosstab: PaneBrief<CrosstabPane> = { Slot: slotOfOne(CrosstabSlot) };
