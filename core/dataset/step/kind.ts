import type { Condition } from '#core/ask/condition/schema.ts';
import { calculationFields } from '#core/ask/measure/calculation.ts';
import type { Calculation } from '#core/ask/measure/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric, isTemporal, parseValue } from '#core/value/field/value.ts';
import type { Ref, Step } from './schema.ts';

/* What every kind of step is, and what they say of fields alike. */

/** What steps know of another data set that they refer to. */
export interface OtherDataSet {
  readonly fields: readonly Field[];
  readonly inputs: readonly { readonly required: boolean }[];
  readonly subsets?: readonly { readonly name: string }[] | undefined;
}

/** The data sets that steps may refer to, by id. */
export type Others = ReadonlyMap<string, OtherDataSet>;

/** What a kind of step does to fields, and what it reads. What it does to records is in core/sql. */
export interface StepKind<S extends Step> {
  /** Why it cannot be done over these fields, or null. Asked before anything else. */
  readonly problem: (step: S, before: readonly Field[], others: Others) => string | null;
  readonly after: (step: S, before: readonly Field[], others: Others) => Field[];
  /** The fields it reads, besides those that only pass through. */
  readonly reads: (step: S, before: readonly Field[]) => readonly string[];
  /** The fields it makes or changes; a step none of whose fields is wanted, and that keeps the records, is left out. */
  readonly makes: (step: S, before: readonly Field[]) => readonly string[];
  /** The name that a field it makes had before it, where it is the same field with the same values; null for one that it works out. */
  readonly carries: (step: S, name: string) => string | null;
  /** What becomes of the records: as many, maybe fewer, or others altogether. */
  readonly records: (step: S) => 'same' | 'fewer' | 'other';
  /** When it has to be done: `never` where it only says which fields go on, and nothing becomes of the records. */
  readonly done: (step: S) => 'always' | 'where wanted' | 'never';
  /** It works on one record at a time and keeps it, so that it can be left until a page of records has been cut out. */
  readonly canWait: (step: S) => boolean;
  /** Fields that it does not read go on to the steps after it. */
  readonly passes: boolean;
  /** Its conditions, in the order in which they are resolved, and whose fields they are about. */
  readonly conditions: (step: S) => readonly Condition[];
  readonly conditionsAbout: 'its records' | 'the other data set';
  /** The data sets that it refers to, in order. */
  readonly refs: (step: S) => readonly Ref[];
  /** The fields that it needs of such a data set, for those that are wanted of what it makes. */
  readonly needsOfOther: (step: S, wanted: ReadonlySet<string>, other: readonly Field[]) => readonly string[];
  readonly dependsOnNow: (step: S) => boolean;
  /** Why a source cannot do it itself, so that its records are fetched for it or kept; null where it can. */
  readonly notAtSource: (step: S) => string | null;
}

/** What a kind of step says that needs nothing but its records. */
export const byItself = {
  carries: () => null,
  conditions: () => [],
  conditionsAbout: 'its records',
  refs: () => [],
  needsOfOther: () => [],
  dependsOnNow: () => false,
  notAtSource: () => null,
} as const;

/** The condition within a calculation, where it has one. */
export const conditionWithin = (calculation: Calculation | undefined): Condition[] =>
  calculation?.kind === 'share' ? [calculation.where] : [];

export const fieldNamed = (fields: readonly Field[], name: string): Field | undefined =>
  fields.find((field) => field.name === name);

export function missingOf(names: readonly string[], fields: readonly Field[]): string | null {
  const missing = names.find((name) => !fieldNamed(fields, name));
  return missing === undefined ? null : `there is no field “${missing}”`;
}

export function takenOf(names: readonly string[], fields: readonly Field[]): string | null {
  const seen = new Set(fields.map(({ name }) => name));
  for (const name of names) {
    if (seen.has(name)) return `there is a field “${name}” already`;
    seen.add(name);
  }
  return null;
}

export const first = (...problems: (string | null)[]): string | null =>
  problems.find((problem) => problem !== null) ?? null;

export const put = (fields: readonly Field[], field: Field): Field[] =>
  fieldNamed(fields, field.name)
    ? fields.map((each) => (each.name === field.name ? field : each))
    : [...fields, field];

export const orderNames = (order: readonly { by: string }[]): string[] => order.map(({ by }) => by);

export function orderable(names: readonly string[], fields: readonly Field[]): string | null {
  const nested = names.find((name) => fieldNamed(fields, name)?.type === 'nested');
  return nested === undefined ? null : `“${nested}” is a list or object, which has no order`;
}

export function calculationProblem(calculation: Calculation, fields: readonly Field[]): string | null {
  const missing = missingOf(calculationFields(calculation), fields);
  if (missing) return missing;
  const parts = calculation.kind === 'ratio' ? [calculation.of, calculation.to] : [calculation];
  for (const part of parts) {
    if (!('field' in part)) continue;
    const type = fieldNamed(fields, part.field)?.type ?? 'text';
    const needsNumber = ['sum', 'average', 'median', 'weighted'].includes(part.kind);
    if (needsNumber && !isNumeric(type)) return `“${part.field}” is not a number`;
    if (part.kind === 'percentile' && !isNumeric(type) && !isTemporal(type))
      return `“${part.field}” has no percentiles`;
    if (type === 'nested') return `“${part.field}” is a list or object`;
    if (part.kind === 'weighted' && !isNumeric(fieldNamed(fields, part.by)?.type ?? 'text'))
      return `“${part.by}” is not a number`;
  }
  return null;
}

/** The data set that is referred to, as fields; a subset has those of its data set. */
export function other(ref: Ref, others: Others): OtherDataSet | string {
  const found = others.get(ref.dataSet);
  if (!found) return 'the other data set no longer exists';
  if (found.inputs.some(({ required }) => required)) return 'the other data set needs an input';
  if (ref.subset !== undefined && !found.subsets?.some(({ name }) => name === ref.subset))
    return `the other data set has no subset “${ref.subset}”`;
  return found;
}

/** What is known of a field stays with it where only its name changes. */
export const withName = ({ ...field }: Field, name: string): Field => ({ ...field, name });

/** A field whose values are made here: nothing is known of it but its type. */
export const newField = (name: string, type: FieldType): Field => ({ name, type });

export function literalProblem(text: string, type: FieldType): string | null {
  const read = parseValue(type, text);
  return read.ok ? null : read.why;
}

export const noOrder = 'in which order? Choose one';

/**
 * An order that leaves no two different records in a tie: after what was said, every field, lists and objects last. What comes
 * first is then the same each time, on every engine.
 */
export function orderWithoutTies(order: readonly { by: string }[], before: readonly Field[]): string[] {
  return [...new Set([...orderNames(order), ...plainNames(before), ...before.map(({ name }) => name)])];
}

/** The fields that have an order and can be compared. */
export const plainNames = (fields: readonly Field[]): string[] =>
  fields.filter(({ type }) => type !== 'nested').map(({ name }) => name);
