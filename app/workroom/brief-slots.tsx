import { useState } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/field/value.ts';
import { pageSizes } from '#core/pane/kinds.ts';
import type { CardPane, ChartPane, Pane, TableColumn, TablePane } from '#core/pane/schema.ts';
import { usualPeriods } from '#core/period/usual.ts';
import { directionWords } from '#core/words/brief.ts';
import { measureWords } from '#core/words/measure.ts';
import { periodWords } from '#core/words/period.ts';
import { Button } from '../ui/button.tsx';
import { ColumnList } from '../ui/column-list.tsx';
import { CheckField, SelectField } from '../ui/field.tsx';
import { ChartSlot } from './chart-slots.tsx';
import { Choices } from './choices.tsx';
import { ColumnDetails } from './column-details.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { ValuesFrom } from './value-pick.tsx';

export interface SlotProps {
  readonly slot: string;
  readonly pane: Pane;
  readonly dataSet: DataSet;
  readonly dataSetId: string;
  /** A period that readers choose reaches the pane. */
  readonly hasReaderPeriod: boolean;
  readonly zone: string;
  readonly onChange: (pane: Pane) => void;
  readonly onDone: () => void;
}

/** What a slot of a brief can be filled with: only what fits the data. */
export function BriefSlot(props: SlotProps) {
  const { slot, pane, dataSet, onChange } = props;
  if (slot === 'subset')
    return (
      <Choices
        now={pane.subset ?? ''}
        choices={[
          { value: '', words: `all ${dataSet.noun.many}` },
          ...(dataSet.subsets ?? []).map(({ name, label }) => ({ value: name, words: label })),
        ]}
        onChoose={(name) => {
          const { subset: _, ...rest } = pane;
          onChange((name ? { ...rest, subset: name } : rest) as Pane);
          props.onDone();
        }}
      />
    );
  if (slot === 'keeping')
    return (
      <ValuesFrom id={props.dataSetId} definition={dataSet} zone={props.zone}>
        <ConditionEditor
          label={`Only ${dataSet.noun.many} where`}
          fields={dataSet.fields}
          value={pane.keeping}
          onChange={(keeping) => {
            const { keeping: _, ...rest } = pane;
            onChange((keeping ? { ...rest, keeping } : rest) as Pane);
          }}
        />
      </ValuesFrom>
    );
  if (slot === 'measure' && (pane.kind === 'card' || pane.kind === 'chart'))
    return <MeasureSlot {...props} pane={pane} />;
  if (slot === 'when') return <WhenSlot {...props} />;
  if (slot === 'behind' && (pane.kind === 'card' || pane.kind === 'chart'))
    return <BehindSlot {...props} pane={pane} />;
  if (pane.kind === 'card') return <ComparisonSlot {...props} pane={pane} />;
  if (pane.kind === 'chart') return <ChartSlot {...props} pane={pane} />;
  if (pane.kind === 'table') return <TableSlot {...props} pane={pane} />;
  if (pane.kind === 'detail')
    return (
      <ColumnList
        offered={offeredColumns(dataSet)}
        chosen={pane.fields}
        onChange={(fields) => fields.length > 0 && onChange({ ...pane, fields })}
      />
    );
  return null;
}

function MeasureSlot({
  pane,
  dataSet,
  onChange,
  onDone,
  dataSetId,
}: SlotProps & { pane: CardPane | ChartPane }) {
  return (
    <>
      <Choices
        choices={dataSet.measures.map((measure) => ({
          value: measure.name,
          words: measure.label,
          more: measureWords(measure, dataSet),
        }))}
        now={pane.measure}
        onChoose={(measure) => {
          onChange({ ...pane, measure });
          onDone();
        }}
      />
      <p className="mt-3 text-small text-muted">
        Another number is defined once, in{' '}
        <a href={`/workroom/data-sets/${dataSetId}`} className="text-accent underline">
          the data set
        </a>
        .
      </p>
    </>
  );
}

function ComparisonSlot({ pane, onChange, onDone }: SlotProps & { pane: CardPane }) {
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

/** Of when the records are: as readers choose, a period of the pane's own, or any time. */
function WhenSlot({ pane, dataSet, hasReaderPeriod, onChange, onDone }: SlotProps) {
  const times = dataSet.fields.filter(({ type, hidden }) => isTemporal(type) && !hidden);
  const own = typeof pane.when === 'object' ? pane.when : undefined;
  const [field, setField] = useState(own?.field ?? times[0]?.name ?? '');
  const setWhen = (when: Pane['when']): void => {
    const { when: _, ...rest } = pane;
    onChange((when ? { ...rest, when } : rest) as Pane);
    onDone();
  };
  const index = usualPeriods.findIndex((period) => JSON.stringify(period) === JSON.stringify(own?.period));
  return (
    <div className="flex flex-col gap-3">
      <Choices
        choices={[
          {
            value: 'readers',
            words: 'the period that readers choose',
            more: hasReaderPeriod
              ? 'It follows the reader filter'
              : 'No reader filter of this dashboard is a period of these records, so this is any time',
          },
          { value: 'any', words: 'at any time', more: 'Whatever period readers choose' },
        ]}
        now={pane.when === undefined ? 'readers' : pane.when === 'any' ? 'any' : ''}
        onChoose={(value) => setWhen(value === 'any' ? 'any' : undefined)}
      />
      {times.length > 0 && (
        <>
          <SelectField
            label="Or a period of its own, by"
            value={field}
            onChange={setField}
            choices={times.map((each) => ({ value: each.name, words: labelOf(each).toLowerCase() }))}
          />
          <Choices
            choices={usualPeriods.map((period, at) => ({
              value: String(at),
              words: periodWords(period, ''),
            }))}
            now={String(index)}
            onChoose={(at) => {
              const period = usualPeriods[Number(at)];
              if (period) setWhen({ field, period });
            }}
          />
        </>
      )}
    </div>
  );
}

/** The fields that the records behind a number show. */
function BehindSlot({ pane, dataSet, onChange }: SlotProps & { pane: CardPane | ChartPane }) {
  return (
    <ColumnList
      offered={offeredColumns(dataSet)}
      chosen={pane.behind ?? []}
      onChange={(fields) => onChange({ ...pane, behind: fields })}
    />
  );
}

const offeredColumns = ({ fields }: DataSet): { name: string; label: string }[] =>
  fields
    .filter(({ type }) => type !== 'nested')
    .map((field) => ({ name: field.name, label: labelOf(field) }));

function TableSlot({ slot, pane, dataSet, onChange, onDone }: SlotProps & { pane: TablePane }) {
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
