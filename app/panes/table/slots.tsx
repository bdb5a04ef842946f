import { pageSizes } from '#core/dashboard/pane/kinds/table/page-sizes.ts';
import type { TableColumn, TablePane } from '#core/dashboard/pane/kinds/table/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { directionWords } from '#core/words/order.ts';
import { Button } from '../../ui/button.tsx';
import { Choices } from '../../ui/choices.tsx';
import { ColumnList } from '../../ui/column-list.tsx';
import { CheckField } from '../../ui/field.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import { offeredColumns, type PaneBrief } from '../slot.ts';
import { ColumnDetails } from './column-details.tsx';

function TableSlot({ slot, pane, dataSet, onChange, onDone }: OneSlotProps<TablePane>) {
  const columnOf = (name: string): TableColumn | undefined =>
    pane.columns.find(({ field }) => field === name);
  const putColumns = (columns: TableColumn[]): void => onChange({ ...pane, columns });
  if (slot === 'pageSize')
    return (
      <Choices
        choices={pageSizes.map((size) => ({ value: String(size), words: `${size} to a page` }))}
        now={String(pane.pageSize)}
        onChoose={(value) => {
          onChange({ ...pane, pageSize: Number(value) });
          onDone();
        }}
      />
    );
  if (slot === 'columns')
    return (
      <ColumnList
        offered={offeredColumns(dataSet)}
        chosen={pane.columns.map(({ field }) => field)}
        onChange={(fields) => {
          if (fields.length > 0) putColumns(fields.map((field) => columnOf(field) ?? { field }));
        }}
        details={(name) => {
          const field = dataSet.fields.find((each) => each.name === name);
          const column = columnOf(name);
          return (
            field &&
            column && (
              <ColumnDetails
                column={column}
                field={field}
                onChange={(next) => putColumns(pane.columns.map((each) => (each === column ? next : each)))}
              />
            )
          );
        }}
      />
    );
  return <OrderSlot pane={pane} dataSet={dataSet} onChange={onChange} />;
}

/** By what the records are sorted, and by what then. */
function OrderSlot({
  pane,
  dataSet,
  onChange,
}: {
  pane: TablePane;
  dataSet: DataSet;
  onChange: (pane: TablePane) => void;
}) {
  const { order } = pane;
  const fields = dataSet.fields.filter(({ hidden, type }) => !hidden && type !== 'nested');
  const put = (next: TablePane['order']): void => onChange({ ...pane, order: next });
  return (
    <div className="flex flex-col gap-3">
      {order.map((one, index) => (
        <div key={one.by} className="grid grid-cols-[1fr_auto_auto] items-end gap-2">
          <SelectField
            label={index === 0 ? 'By' : 'Then by'}
            value={one.by}
            onChange={(chosen) =>
              put(order.map((each, at) => (at === index ? { ...each, by: chosen } : each)))
            }
            choices={fields.map((field) => ({ value: field.name, words: labelOf(field).toLowerCase() }))}
          />
          <CheckField
            label={directionWords(
              fields.find(({ name }) => name === one.by),
              true,
            )}
            checked={one.descending ?? false}
            onChange={() =>
              put(order.map((each, at) => (at === index ? { ...each, descending: !each.descending } : each)))
            }
          />
          <Button look="quiet" onClick={() => put(order.filter((_, at) => at !== index))}>
            Remove
          </Button>
        </div>
      ))}
      <Button
        className="self-start"
        disabled={order.length >= 8}
        onClick={() => {
          const free = fields.find(({ name }) => !order.some(({ by }) => by === name));
          if (free) put([...order, { by: free.name }]);
        }}
      >
        {order.length === 0 ? 'Sort' : 'Then by …'}
      </Button>
    </div>
  );
}

export const table: PaneBrief<TablePane> = { Slot: slotOfOne(TableSlot) };
