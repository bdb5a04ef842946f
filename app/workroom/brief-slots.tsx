import { useState } from 'react';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import { isTemporal, labelOf } from '#core/value/field/value.ts';
import { usualPeriods } from '#core/value/period/usual.ts';
import { periodWords } from '#core/words/period.ts';
import { briefOf } from '../panes/briefs.ts';
import type { SlotProps } from '../panes/slot.ts';
import { Choices } from '../ui/choices.tsx';
import { SelectField } from '../ui/field.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { ValuesFrom } from './value-pick.tsx';

interface Props extends SlotProps<Pane> {
  /** A period that readers choose reaches the pane. */
  readonly hasReaderPeriod: boolean;
  readonly zone: string;
}

/** What a slot of a brief can be filled with: only what fits the data. */
export function BriefSlot(props: Props) {
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
  if (slot === 'when') return <WhenSlot {...props} />;
  const { Slot } = briefOf(pane);
  return <Slot {...props} />;
}

/** Of when the records are: as readers choose, a period of the pane's own, or any time. */
function WhenSlot({ pane, dataSet, hasReaderPeriod, onChange, onDone }: Props) {
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
