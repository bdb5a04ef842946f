import { mostGroups } from '#core/dashboard/pane/kinds/table/most-groups.ts';
import { pageSizes } from '#core/dashboard/pane/kinds/table/page-sizes.ts';
import type { TableColumn, TableGroup, TablePane } from '#core/dashboard/pane/kinds/table/schema.ts';
import { groupedByWords } from '#core/dashboard/pane/level-words.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { dayUnits } from '#core/value/period/units.ts';
import { ColumnList } from '../../ui/column-list.tsx';
import { SelectField } from '../../ui/select-field.tsx';
import { DoingSlot } from '../doing-slot.tsx';
import { groupable, groupName, groupOf } from '../group-choices.ts';
import { type OneSlotProps, slotOfOne } from '../of-one.tsx';
import { OrderSlot } from '../order-slot.tsx';
import { PageSizeSlot } from '../page-size-slot.tsx';
import { offeredColumns, type PaneBrief } from '../slot.ts';
import { ColumnDetails } from './column-details.tsx';

function TableSlot({ slot, pane, dataSet, onChange, onDone }: OneSlotProps<TablePane>) {
  const columnOf = (name: string): TableColumn | undefined =>
    pane.columns.find(({ field }) => field === name);
  const putColumns = (columns: TableColumn[]): void => onChange({ ...pane, columns });
  if (slot === 'pageSize')
    return (
      <PageSizeSlot
        size={pane.pageSize}
        sizes={pageSizes}
        onChoose={(pageSize) => {
          onChange({ ...pane, pageSize });
          onDone();
        }}
      />
    );
  if (slot === 'group') return <GroupsSlot pane={pane} dataSet={dataSet} onChange={onChange} />;
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
  return (
    <OrderSlot order={pane.order} dataSet={dataSet} onChange={(order) => onChange({ ...pane, order })} />
  );
}

/** What records stand together by, and by what within that. */
function GroupsSlot({
  pane,
  dataSet,
  onChange,
}: {
  pane: TablePane;
  dataSet: DataSet;
  onChange: (pane: TablePane) => void;
}) {
  const { groups = [], ...whole } = pane;
  const put = (next: readonly TableGroup[]): void =>
    onChange(next.length > 0 ? { ...whole, groups: [...next] } : whole);
  // A moment without a unit stands by its day.
  const nameOf = ({ field, unit }: TableGroup): string => {
    const isDated = dataSet.fields.some(({ name, type }) => name === field && isTemporal(type));
    return groupName({ field, unit: unit ?? (isDated ? 'day' : undefined) });
  };
  const offered = groupable(dataSet)
    .filter(({ name }) => name !== dataSet.key && name !== dataSet.title)
    .flatMap((field) =>
      (isTemporal(field.type) ? dayUnits : [undefined]).map((unit) => ({
        value: groupName({ field: field.name, unit }),
        words: groupedByWords({ field: field.name, unit }, labelOf(field).toLowerCase()),
      })),
    );
  const names = groups.map(nameOf);
  return (
    <div className="flex flex-col gap-3">
      {[...names, ''].slice(0, mostGroups).map((name, level) => (
        <SelectField
          // biome-ignore lint/suspicious/noArrayIndexKey: a level is what it is by its place
          key={level}
          label={level === 0 ? 'Grouped by' : 'Then by'}
          value={name}
          choices={[
            { value: '', words: 'nothing' },
            ...offered.filter(({ value }) => value === name || !names.includes(value)),
          ]}
          onChange={(chosen) => {
            const { field, unit } = groupOf(chosen);
            const day = dayUnits.find((each) => each === unit);
            const group = { field, ...(day ? { unit: day } : {}) };
            put([...groups.slice(0, level), ...(chosen ? [group] : []), ...groups.slice(level + 1)]);
          }}
        />
      ))}
    </div>
  );
}

/** How many of its first columns stay in view while it is moved sideways. */
function HeldColumns({ pane, onChange }: { pane: TablePane; onChange: (pane: TablePane) => void }) {
  const { held, ...rest } = pane;
  return (
    <SelectField
      label="While it is moved sideways"
      value={String(held ?? 0)}
      choices={[
        { value: '0', words: 'all columns move' },
        { value: '1', words: 'the first column stays' },
        ...['2', '3'].map((value) => ({ value, words: `the first ${value} columns stay` })),
      ]}
      onChange={(value) => onChange(value === '0' ? rest : { ...rest, held: Number(value) })}
    />
  );
}

function TableMore(props: {
  pane: TablePane;
  dataSets: ReadonlyMap<string, DataSet>;
  onChange: (pane: TablePane) => void;
}) {
  return (
    <>
      <HeldColumns {...props} />
      <DoingSlot {...props} />
    </>
  );
}

export const table: PaneBrief<TablePane> = { Slot: slotOfOne(TableSlot), More: TableMore };
