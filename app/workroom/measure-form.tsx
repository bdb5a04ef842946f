import { useState } from 'react';
import { calculationType } from '#core/ask/measure/calculation.ts';
import type { Calculation, Measure } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { isNumeric } from '#core/value/field/value.ts';
import { asTyped, fromTyped } from '#core/value/number-style.ts';
import { calculationWords } from '#core/words/measure.ts';
import { Button } from '../ui/button.tsx';
import { TextField } from '../ui/field.tsx';
import { FormatFields } from '../ui/format-fields.tsx';
import { SelectField } from '../ui/select-field.tsx';
import { BandList } from './band-list.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import {
  draftOfMeasure,
  emptyMeasure,
  isOpen,
  type MeasureDraft,
  measureFrom,
  targetProblem,
  usualFormat,
} from './measure-draft.ts';
import { CalculationForm } from './steps/calculation-form.tsx';

/** What a number computes, over which records, and how it reads. */
export function MeasureForm({
  definition,
  measure,
  onDone,
}: {
  definition: DataSet;
  /** Absent: a new one. */
  measure?: Measure;
  onDone: (measure: Measure | null) => void;
}) {
  const [draft, setDraft] = useState<MeasureDraft>(measure ? draftOfMeasure(measure) : emptyMeasure);
  const { calculation, where } = draft;
  const { fields } = definition;
  const put = (change: Partial<MeasureDraft>): void => setDraft({ ...draft, ...change });
  /** What was said of the records that count stays said when a share is chosen, and when it is left again. */
  const choose = (next: Calculation): void => {
    const isOther = next.kind !== calculation.kind;
    const chosen: Calculation = next.kind === 'share' && isOther && where ? { kind: 'share', where } : next;
    put({
      calculation: chosen,
      ...(chosen.kind === 'share' ? { where: isOpen(chosen) ? undefined : chosen.where } : {}),
      ...(isOther ? { format: usualFormat(next.kind) } : {}),
    });
  };
  const made = measureFrom(draft, definition, measure?.name);
  const problem = targetProblem(draft, fields);
  return (
    <div className="my-3 flex flex-col gap-3 border-l-3 border-accent pl-4">
      <CalculationForm label="Compute" fields={fields} value={calculation} onChange={choose} />
      {calculation.kind !== 'share' && (
        <ConditionEditor
          label="Keeping"
          fields={fields}
          value={where}
          onChange={(next) => put({ where: next })}
        />
      )}
      <div className="grid grid-cols-[repeat(auto-fit,minmax(8rem,1fr))] gap-3">
        <TextField
          label="Called"
          placeholder={isOpen(calculation) ? '' : calculationWords(calculation, definition)}
          value={draft.label}
          maxLength={500}
          onChange={({ target }) => put({ label: target.value })}
        />
        <TextField
          label="Unit"
          value={draft.unit}
          maxLength={60}
          onChange={({ target }) => put({ unit: target.value })}
        />
        <FormatFields
          type={calculationType(calculation, fields)}
          format={draft.format}
          usual="default"
          onChange={(format) => put({ format })}
        />
        <SelectField
          label="Good is"
          value={draft.good ?? ''}
          onChange={(chosen) => put({ good: chosen === '' ? undefined : chosen })}
          choices={[
            { value: '', words: 'neither' },
            { value: 'up', words: 'more' },
            { value: 'down', words: 'less' },
          ]}
        />
        <TextField
          label="Target"
          value={asTyped(draft.target)}
          maxLength={60}
          inputMode="decimal"
          hint={draft.format?.kind === 'percent' ? `${asTyped('0.9')} is 90%` : undefined}
          problem={problem ?? undefined}
          onChange={({ target }) => put({ target: fromTyped(target.value.trim()) })}
        />
      </div>
      {isNumeric(calculationType(calculation, fields)) && (
        <BandList
          of={draft.label || 'the measure'}
          bands={draft.bands}
          hint={
            draft.format?.kind === 'percent'
              ? 'Each range goes up to where the next one begins; 0.9 is 90%.'
              : undefined
          }
          onChange={(bands) => put({ bands })}
        />
      )}
      <div className="flex gap-2">
        <Button look="main" disabled={!made} onClick={() => made && onDone(made)}>
          {measure ? 'Done' : 'Add it'}
        </Button>
        <Button look="quiet" onClick={() => onDone(null)}>
          Cancel
        </Button>
      </div>
    </div>
  );
}
