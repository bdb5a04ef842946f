import { calculationType } from '#core/ask/measure/calculation.ts';
import type { Measure } from '#core/ask/measure/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { type Cell, labelOf } from '#core/value/field/value.ts';

/** A field as a pane shows it: enough to write its values, nothing of where they come from. */
export type ShownField = Pick<
  Field,
  'name' | 'type' | 'unit' | 'format' | 'states' | 'colours' | 'bands' | 'description' | 'group'
> & {
  label: string;
};

export const shownField = (field: Field, label = labelOf(field)): ShownField => ({
  name: field.name,
  type: field.type,
  label,
  ...(field.unit === undefined ? {} : { unit: field.unit }),
  ...(field.format === undefined ? {} : { format: field.format }),
  ...(field.states === undefined ? {} : { states: field.states }),
  ...(field.colours === undefined ? {} : { colours: field.colours }),
  ...(field.bands === undefined ? {} : { bands: field.bands }),
  ...(field.group === undefined ? {} : { group: field.group }),
  ...(field.description === undefined ? {} : { description: field.description }),
});

/** A field of a data set by name; one that has gone is text. */
export function fieldOf(dataSet: DataSet, name: string): Field {
  return dataSet.fields.find((field) => field.name === name) ?? { name, type: 'text' };
}

export interface ShownMeasure {
  readonly label: string;
  readonly type: Field['type'];
  readonly unit?: string | undefined;
  readonly format?: Measure['format'];
  readonly good?: Measure['good'];
  readonly target?: string | undefined;
  readonly bands?: Measure['bands'];
  /** It counts things, of which there are fewer; an amount is less. */
  readonly isCount: boolean;
}

export const shownMeasure = (measure: Measure, fields: readonly Field[]): ShownMeasure => ({
  label: measure.label,
  type: calculationType(measure.calculation, fields),
  unit: measure.unit,
  format: measure.format,
  good: measure.good,
  target: measure.target,
  bands: measure.bands,
  isCount: measure.calculation.kind === 'count' || measure.calculation.kind === 'distinct',
});

/** A clause whose loosening would give records again. */
export interface Loosen {
  readonly name?: string;
  readonly words: string;
  readonly count: string;
}

export interface Noun {
  readonly one: string;
  readonly many: string;
}

/** Records in a list, some of them. */
export interface RecordList {
  /** In the order of the cells of a record. */
  readonly fields: readonly ShownField[];
  readonly records: readonly (readonly Cell[])[];
  /** Exact text; null while it is still being counted. */
  readonly total: string | null;
  /** From 1. */
  readonly page: number;
  readonly noun: Noun;
}

/** A record with all that matters on it. */
export interface ShownRecord {
  readonly fields: readonly ShownField[];
  /** Null: there is no such record (any more). */
  readonly record: readonly Cell[] | null;
  readonly title: string | null;
  readonly noun: Noun;
}
