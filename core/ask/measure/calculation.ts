import { type Filter, fieldsOf } from '#core/ask/condition/resolve.ts';
import type { Condition } from '#core/ask/condition/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Calculation } from './schema.ts';

export interface PlannedMeasure {
  readonly name: string;
  readonly calculation: PlannedCalculation;
  readonly where?: Filter;
}

/** A calculation whose conditions are resolved. */
export type PlannedCalculation =
  | Exclude<Calculation, { kind: 'share' }>
  | { kind: 'share'; where: Filter }
  /** How many different values, roughly where counting exactly would take long. */
  | { kind: 'about'; field: string }
  /** How many records are not blank in a field. */
  | { kind: 'filled'; field: string }
  /** How many texts are written as values of a type are. */
  | { kind: 'readable'; field: string; as: 'integer' | 'decimal' | 'date' | 'instant' | 'local' | 'padded' };

/** The type of a measure's value, which decides how it is read and written. */
export function calculationType(
  calculation: Calculation | PlannedCalculation,
  fields: readonly Field[],
): Field['type'] {
  const typeOf = (name: string): Field['type'] =>
    fields.find((field) => field.name === name)?.type ?? 'decimal';
  switch (calculation.kind) {
    case 'count':
    case 'distinct':
    case 'about':
    case 'filled':
    case 'readable':
      return 'integer';
    case 'share':
      return 'decimal';
    case 'ratio':
      return [calculation.of, calculation.to].some((part) => calculationType(part, fields) === 'float')
        ? 'float'
        : 'decimal';
    case 'weighted':
      return [calculation.field, calculation.by].some((name) => typeOf(name) === 'float')
        ? 'float'
        : 'decimal';
    case 'average':
    case 'median': {
      const type = typeOf(calculation.field);
      return type === 'float' ? 'float' : 'decimal';
    }
    case 'sum':
    case 'least':
    case 'greatest':
    case 'percentile':
    case 'first':
    case 'last':
      return typeOf(calculation.field);
  }
}

/** The fields that a calculation reads, except for those of a share's condition where that is resolved elsewhere. */
export function calculationFields(calculation: Calculation | PlannedCalculation): string[] {
  switch (calculation.kind) {
    case 'count':
      return [];
    case 'share':
      return fieldsOf(calculation.where);
    case 'ratio':
      return [calculation.of, calculation.to].flatMap(calculationFields);
    case 'weighted':
    case 'first':
    case 'last':
      return [calculation.field, calculation.by];
    default:
      return [calculation.field];
  }
}

/** The fields that a measure reads, for its own condition too. */
export const measureFields = ({
  calculation,
  where,
}:
  | Pick<PlannedMeasure, 'calculation' | 'where'>
  | { calculation: Calculation; where?: Condition | undefined }): string[] => [
  ...(where ? fieldsOf(where) : []),
  ...calculationFields(calculation),
];
