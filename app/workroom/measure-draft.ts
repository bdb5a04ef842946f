import { fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import { calculationType } from '#core/ask/measure/calculation.ts';
import type { Calculation, Measure, SimpleCalculation } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { type Band, Bands } from '#core/value/field/bands.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Format } from '#core/value/field/format.ts';
import { freeName } from '#core/value/field/free-name.ts';
import { isNumeric, isTemporal, parseValue } from '#core/value/field/value.ts';
import { calculationWords } from '#core/words/measure.ts';

/* A measure while it is being made. Pure. */

export interface MeasureDraft {
  readonly calculation: Calculation;
  readonly where: Condition | undefined;
  readonly label: string;
  readonly unit: string;
  readonly format: Format | undefined;
  readonly good: Measure['good'];
  readonly target: string;
  readonly bands: readonly Band[];
}

export const emptyMeasure: MeasureDraft = {
  calculation: { kind: 'count' },
  where: undefined,
  label: '',
  unit: '',
  format: undefined,
  good: undefined,
  target: '',
  bands: [],
};

export const draftOfMeasure = (measure: Measure): MeasureDraft => ({
  calculation: measure.calculation,
  where: measure.where,
  label: measure.label,
  unit: measure.unit ?? '',
  format: measure.format,
  good: measure.good,
  target: measure.target ?? '',
  bands: measure.bands ?? [],
});

const onNumbers = new Set<Calculation['kind']>(['sum', 'average', 'median', 'percentile', 'weighted']);

/** The fields that a kind of calculation can be of. */
export const fieldsFor = (kind: Calculation['kind'], fields: readonly Field[]): Field[] =>
  fields.filter(({ type }) => type !== 'nested' && (!onNumbers.has(kind) || isNumeric(type)));

/** The fields that first and last can go by, or that can be weights. */
export const fieldsBy = (kind: 'first' | 'last' | 'weighted', fields: readonly Field[]): Field[] =>
  kind === 'weighted'
    ? fields.filter(({ type }) => isNumeric(type))
    : [...fields]
        .filter(({ type }) => type !== 'nested' && type !== 'boolean')
        .sort((a, b) => Number(isTemporal(b.type)) - Number(isTemporal(a.type)));

/** A calculation of one kind, of the field it had where that fits. Null: no field of the data set fits. */
export function simpleOf(
  kind: SimpleCalculation['kind'],
  fields: readonly Field[],
  wanted?: string,
): SimpleCalculation | null {
  if (kind === 'count') return { kind };
  const fitting = fieldsFor(kind, fields);
  const field = (fitting.find(({ name }) => name === wanted) ?? fitting[0])?.name;
  if (field === undefined) return null;
  switch (kind) {
    case 'percentile':
      return { kind, field, at: 90 };
    case 'first':
    case 'last':
    case 'weighted': {
      const by = fieldsBy(kind, fields).find(({ name }) => name !== field)?.name;
      return by === undefined ? null : { kind, field, by };
    }
    default:
      return { kind, field };
  }
}

/** The usual writing of what a calculation gives. */
export const usualFormat = (kind: Calculation['kind']): Format | undefined =>
  kind === 'share' ? { kind: 'percent', decimals: 1 } : undefined;

/** A share of which records has not been said yet. */
export const isOpen = (calculation: Calculation): boolean =>
  calculation.kind === 'share' && fieldsOf(calculation.where).length === 0;

/** What is wrong with the target of a draft, or null. */
export function targetProblem(
  { calculation, target }: MeasureDraft,
  fields: readonly Field[],
): string | null {
  if (target === '') return null;
  if (!isNumeric(calculationType(calculation, fields))) return 'a target is for numbers';
  const parsed = parseValue('decimal', target);
  return parsed.ok ? null : parsed.why;
}

/** What is wrong with a draft, or null. */
export function measureProblem(draft: MeasureDraft, fields: readonly Field[]): string | null {
  const { calculation, bands } = draft;
  if (isOpen(calculation)) return 'say what it computes';
  if (bands.length > 0 && !isNumeric(calculationType(calculation, fields))) return 'bands are for numbers';
  if (!Bands.safeParse(bands).success) return 'its bands are not complete';
  return targetProblem(draft, fields);
}

/** The measure that a draft says. A new one is named after its label, apart from those there are. */
export function measureFrom(draft: MeasureDraft, dataSet: DataSet, name?: string): Measure | null {
  const { calculation, where, unit, format, good, target, bands } = draft;
  if (measureProblem(draft, dataSet.fields)) return null;
  const label = draft.label.trim() || calculationWords(calculation, dataSet);
  return {
    name: name ?? nameOf(label, dataSet),
    label,
    calculation,
    ...(where && calculation.kind !== 'share' ? { where } : {}),
    ...(unit ? { unit } : {}),
    ...(format ? { format } : {}),
    ...(good ? { good } : {}),
    ...(target ? { target } : {}),
    ...(bands.length > 0 ? { bands: [...bands] } : {}),
  };
}

function nameOf(label: string, { measures }: DataSet): string {
  const stem =
    label
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_|_$/g, '')
      .slice(0, 60) || 'measure';
  return freeName(stem, (name) => measures.some((each) => each.name === name));
}
