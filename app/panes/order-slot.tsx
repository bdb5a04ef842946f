import type { ListOrder } from '#core/dashboard/pane/list-view.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { directionWords } from '#core/words/order.ts';
import { Button } from '../ui/button.tsx';
import { CheckField } from '../ui/field.tsx';
import { SelectField } from '../ui/select-field.tsx';

/** By what records are sorted, and by what then. */
export function OrderSlot({
  order,
  dataSet,
  least = 0,
  onChange,
}: {
  order: ListOrder;
  dataSet: DataSet;
  /** By this many fields they are always sorted. */
  least?: number;
  onChange: (order: { by: string; descending?: boolean }[]) => void;
}) {
  const fields = dataSet.fields.filter(({ hidden, type }) => !hidden && type !== 'nested');
  const put = (next: ListOrder): void =>
    onChange(next.map(({ by, descending }) => ({ by, ...(descending ? { descending } : {}) })));
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
          <Button
            look="quiet"
            disabled={order.length <= least}
            onClick={() => put(order.filter((_, at) => at !== index))}
          >
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
