import { leadersFor } from '#core/dashboard/pane/in-step.ts';
import type { RecordCardsPane } from '#core/dashboard/pane/kinds/record-cards/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { Choices } from '../../ui/choices.tsx';
import { ColumnList } from '../../ui/column-list.tsx';
import { DoingSlot } from '../doing-slot.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import { OrderSlot } from '../order-slot.tsx';
import { PageSizeSlot } from '../page-size-slot.tsx';
import { offeredColumns, type PaneBrief } from '../slot.ts';

/** How many cards a page can have: as many as fill rows of two, three and four. */
const pageSizes = [12, 24, 48, 96];
const mostFields = 8;

function CardsSlot({ slot, pane, panes, dataSet, onChange, onDone }: OneSlotProps<RecordCardsPane>) {
  const put = (next: RecordCardsPane): void => {
    onChange(next);
    onDone();
  };
  switch (slot) {
    case 'picture': {
      const { picture: _, ...plain } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'no picture' },
            ...dataSet.fields
              .filter(({ format, hidden }) => format?.kind === 'picture' && !hidden)
              .map((field) => ({
                value: field.name,
                words: `the picture in ${labelOf(field).toLowerCase()}`,
              })),
          ]}
          now={pane.picture ?? ''}
          onChoose={(picture) => put(picture ? { ...plain, picture } : plain)}
        />
      );
    }
    case 'inStep': {
      const { inStepWith: _, searched: __, ...alone } = pane;
      return (
        <Choices
          choices={[
            { value: '', words: 'by themselves' },
            ...leadersFor(pane, panes).map(({ id, title }) => ({
              value: id,
              words: `in step with “${title || 'Untitled'}”`,
              more: 'The same records, in the same order, on the same page, as searched there',
            })),
          ]}
          now={pane.inStepWith ?? ''}
          onChoose={(id) => put(id ? { ...alone, inStepWith: id } : alone)}
        />
      );
    }
    case 'order':
      return (
        <OrderSlot order={pane.order} dataSet={dataSet} onChange={(order) => onChange({ ...pane, order })} />
      );
    case 'pageSize':
      return (
        <PageSizeSlot
          size={pane.pageSize}
          sizes={pageSizes}
          onChoose={(pageSize) => put({ ...pane, pageSize })}
        />
      );
    default:
      return (
        <ColumnList
          offered={offeredColumns(dataSet)}
          chosen={pane.fields}
          onChange={(fields) =>
            fields.length > 0 && onChange({ ...pane, fields: fields.slice(0, mostFields) })
          }
        />
      );
  }
}

export const recordCards: PaneBrief<RecordCardsPane> = { Slot: slotOfOne(CardsSlot), More: DoingSlot };
