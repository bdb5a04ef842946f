import { useState } from 'react';
import { hasReaderPeriod } from '#core/dashboard/flow/applies.ts';
import { kindOf } from '#core/dashboard/pane/kinds.ts';
import { type RecordsPart, recordsOf, recordsSlotOf } from '#core/dashboard/pane/records-slot.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneRecords } from '#core/dashboard/pane/shared.ts';
import { usesOf } from '#core/dashboard/pane/uses.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { usualPeriods } from '#core/value/period/usual.ts';
import { periodWords } from '#core/words/period.ts';
import { briefOf } from '../panes/briefs.ts';
import type { SlotProps } from '../panes/slot.ts';
import { Choices } from '../ui/choices.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { ValuesFrom } from './value-pick.tsx';

interface Props extends SlotProps<Pane> {
  readonly dashboard: Dashboard;
  readonly zone: string;
}

interface RecordsProps extends Pick<Props, 'dashboard' | 'dataSets' | 'zone' | 'onDone'> {
  readonly part: RecordsPart;
  readonly records: PaneRecords;
  readonly dataSet: DataSet;
  readonly onChange: (records: PaneRecords) => void;
}

/** What a slot of a brief can be filled with: only what fits the data. */
export function BriefSlot(props: Props) {
  const { slot, pane, dataSets, onChange } = props;
  const of = recordsSlotOf(slot);
  const use = of && usesOf(pane)[of.use];
  const dataSet = use && dataSets.get(use.dataSet);
  if (of && use && dataSet)
    return (
      <RecordsSlot
        {...props}
        part={of.part}
        records={recordsOf(use)}
        dataSet={dataSet}
        onChange={(records) => onChange(kindOf(pane).withRecords(pane, of.use, records))}
      />
    );
  const { Slot } = briefOf(pane);
  return <Slot {...props} />;
}

/** Which records it is of, and of when. */
function RecordsSlot(props: RecordsProps) {
  const { part, records, dataSet, onChange } = props;
  if (part === 'subset')
    return (
      <Choices
        now={records.subset ?? ''}
        choices={[
          { value: '', words: `all ${dataSet.noun.many}` },
          ...(dataSet.subsets ?? []).map(({ name, label }) => ({ value: name, words: label })),
        ]}
        onChoose={(name) => {
          onChange({ ...records, subset: name || undefined });
          props.onDone();
        }}
      />
    );
  if (part === 'keeping')
    return (
      <ValuesFrom id={records.dataSet} definition={dataSet} zone={props.zone}>
        <ConditionEditor
          label={`Only ${dataSet.noun.many} where`}
          fields={dataSet.fields}
          value={records.keeping}
          onChange={(keeping) => {
            onChange({ ...records, keeping: keeping ?? undefined });
          }}
        />
      </ValuesFrom>
    );
  return <WhenSlot {...props} />;
}

/** Of when the records are: as readers choose, a period of the pane's own, or any time. */
function WhenSlot({ records, dataSet, dataSets, dashboard, onChange, onDone }: RecordsProps) {
  const isReadersChoice = hasReaderPeriod(records, dataSet, { dashboard, dataSets });
  const times = dataSet.fields.filter(({ type, hidden }) => isTemporal(type) && !hidden);
  const own = typeof records.when === 'object' ? records.when : undefined;
  const [field, setField] = useState(own?.field ?? times[0]?.name ?? '');
  const setWhen = (when: PaneRecords['when']): void => {
    onChange({ ...records, when });
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
            more: isReadersChoice
              ? 'It follows the reader filter'
              : 'No reader filter of this dashboard is a period of these records, so this is any time',
          },
          { value: 'any', words: 'at any time', more: 'Whatever period readers choose' },
        ]}
        now={records.when === undefined ? 'readers' : records.when === 'any' ? 'any' : ''}
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
