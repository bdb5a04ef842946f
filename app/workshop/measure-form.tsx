import { useState } from 'react';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/field/value.ts';
import type { Calculation, Measure, SimpleCalculation } from '#core/measure/schema.ts';
import { calculationType } from '#core/plan/plan.ts';
import { calculationKinds, calculationWords } from '#core/words/measure.ts';
import { Button } from '../ui/button.tsx';
import { SelectField, TextField } from '../ui/field.tsx';
import { ConditionEditor } from './condition-editor.tsx';
import { FormatFields } from './format-fields.tsx';
import {
  draftOfMeasure,
  emptyMeasure,
  fieldsBy,
  fieldsFor,
  type MeasureDraft,
  measureFrom,
  measureProblem,
  simpleOf,
  usualFormat,
} from './measure-draft.ts';

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
  const [kind, setKind] = useState<Calculation['kind']>(draft.calculation?.kind ?? 'count');
  const { calculation, where } = draft;
  const { fields } = definition;
  const put = (change: Partial<MeasureDraft>): void => setDraft({ ...draft, ...change });
  const choose = (next: Calculation['kind']): void => {
    setKind(next);
    put({ calculation: calculationOf(next, draft, definition), format: usualFormat(next) });
  };
  const made = measureFrom(draft, definition, measure?.name);
  const problem = measureProblem(draft, fields);
  return (
    <div className="my-3 flex flex-col gap-3 border-l-3 border-accent pl-4">
      <div className="grid grid-cols-2 gap-3">
        <SelectField
          label="Compute"
          value={kind}
          onChange={({ target }) => choose(target.value as Calculation['kind'])}
        >
          {Object.entries(calculationKinds).map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </SelectField>
        {calculation && calculation.kind !== 'ratio' && calculation.kind !== 'share' && (
          <SimpleFields
            calculation={calculation}
            definition={definition}
            onChange={(next) => put({ calculation: next })}
          />
        )}
      </div>
      {calculation?.kind === 'ratio' &&
        (['of', 'to'] as const).map((part) => (
          <div key={part} className="grid grid-cols-2 gap-3">
            <SelectField
              label={part === 'of' ? 'Of' : 'Per'}
              value={calculation[part].kind}
              onChange={({ target }) => {
                const next = simpleOf(target.value as SimpleCalculation['kind'], fields);
                if (next) put({ calculation: { ...calculation, [part]: next } });
              }}
            >
              {(['count', 'distinct', 'sum', 'average', 'median', 'least', 'greatest'] as const).map(
                (one) => (
                  <option key={one} value={one}>
                    {calculationKinds[one]}
                  </option>
                ),
              )}
            </SelectField>
            <SimpleFields
              calculation={calculation[part]}
              definition={definition}
              onChange={(next) => put({ calculation: { ...calculation, [part]: next } })}
            />
          </div>
        ))}
      <ConditionEditor
        label={kind === 'share' ? 'That are' : 'Keeping'}
        fields={fields}
        value={calculation?.kind === 'share' ? calculation.where : where}
        onChange={(next) =>
          put(
            kind === 'share'
              ? { where: next, calculation: next ? { kind, where: next } : null }
              : { where: next },
          )
        }
      />
      <div className="grid grid-cols-[repeat(auto-fit,minmax(8rem,1fr))] gap-3">
        <TextField
          label="Called"
          placeholder={calculation ? calculationWords(calculation, definition) : ''}
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
          type={calculation ? calculationType(calculation, fields) : 'decimal'}
          format={draft.format}
          usual="as numbers are"
          onChange={(format) => put({ format })}
        />
        <SelectField
          label="Good is"
          value={draft.good ?? ''}
          onChange={({ target }) => put({ good: target.value === '' ? undefined : (target.value as 'up') })}
        >
          <option value="">neither</option>
          <option value="up">more</option>
          <option value="down">less</option>
        </SelectField>
        <TextField
          label="Target"
          value={draft.target}
          maxLength={60}
          inputMode="decimal"
          hint={draft.format?.kind === 'percent' ? '0.9 is 90%' : undefined}
          problem={draft.target && problem ? problem : undefined}
          onChange={({ target }) => put({ target: target.value.trim() })}
        />
      </div>
      <div className="flex gap-2">
        <Button look="main" disabled={!made} onClick={() => made && onDone(made)}>
          {measure ? 'Done' : 'Add it'}
        </Button>
        <Button look="quiet" onClick={() => onDone(null)}>
          Leave it
        </Button>
      </div>
    </div>
  );
}

/** The calculation of a newly chosen kind, with what the draft said before where it still fits. */
function calculationOf(
  kind: Calculation['kind'],
  { calculation, where }: MeasureDraft,
  { fields }: DataSet,
): Calculation | null {
  const field = calculation && 'field' in calculation ? calculation.field : undefined;
  switch (kind) {
    case 'share':
      return where ? { kind, where } : null;
    case 'ratio': {
      const of = simpleOf('sum', fields, field) ?? { kind: 'count' as const };
      return { kind, of, to: { kind: 'count' } };
    }
    default:
      return simpleOf(kind, fields, field);
  }
}

/** The field that a calculation is of, and which percentile. */
function SimpleFields({
  calculation,
  definition,
  onChange,
}: {
  calculation: SimpleCalculation;
  definition: DataSet;
  onChange: (next: SimpleCalculation) => void;
}) {
  if (calculation.kind === 'count') return null;
  return (
    <>
      <SelectField
        label="Of the field"
        value={calculation.field}
        onChange={({ target }) => onChange({ ...calculation, field: target.value })}
      >
        {fieldsFor(calculation.kind, definition.fields).map((field) => (
          <option key={field.name} value={field.name}>
            {labelOf(field)}
          </option>
        ))}
      </SelectField>
      {'by' in calculation && (
        <SelectField
          label={calculation.kind === 'weighted' ? 'Weighed by' : 'In the order of'}
          value={calculation.by}
          onChange={({ target }) => onChange({ ...calculation, by: target.value })}
        >
          {fieldsBy(calculation.kind, definition.fields).map((field) => (
            <option key={field.name} value={field.name}>
              {labelOf(field)}
            </option>
          ))}
        </SelectField>
      )}
      {calculation.kind === 'percentile' && (
        <TextField
          label="Percentile"
          type="number"
          min={1}
          max={99}
          defaultValue={calculation.at}
          onChange={({ target }) => {
            const at = Math.trunc(target.valueAsNumber);
            if (at >= 1 && at <= 99) onChange({ ...calculation, at });
          }}
        />
      )}
    </>
  );
}
