import type { Filter } from '#core/ask/condition/resolve.ts';
import type { PlannedMeasure } from '#core/ask/measure/calculation.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { Step } from '#core/dataset/step/schema.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cycle, DayUnit, Unit } from '#core/value/period/units.ts';
import type { InstantSpan } from './span.ts';

/** Where a plan's records come from: a request, the values of its inputs, and the fields it yields. */
export interface Relation {
  readonly source: string;
  readonly request: Request | KeptRequest;
  /** Canonical texts by input name; null asks for no restriction. */
  readonly inputs: Readonly<Record<string, { type: Field['type']; value: string | null }>>;
  /** Values of inputs that have to stand in a field of other records, or nothing is asked. */
  readonly allowed?: readonly Allowed[] | undefined;
  readonly fields: readonly Field[];
  /** Where steps shape the records: the fields that the request yields, and the steps in order. */
  readonly start?: readonly Field[] | undefined;
  readonly steps?: readonly PlannedStep[] | undefined;
  /** Where the records are fetched when they are asked for: how old they may be, in seconds. */
  readonly fresh?: number | undefined;
  /** The least and greatest instant of fields, where that is known: grouping by local time then costs less. */
  readonly spans?: Readonly<Record<string, InstantSpan>>;
  /** Fields of the request of which it is known that no two records share a value: looking one up costs less. */
  readonly unique?: readonly string[] | undefined;
}

/** A value of an input, and the field of other records in which it has to stand. */
export interface Allowed {
  readonly input: string;
  readonly value: string;
  readonly among: Relation;
  readonly field: string;
}

/** A step with all that it depends on besides the records: conditions resolved, other data sets as relations, the moment. */
export interface PlannedStep {
  readonly step: Step;
  readonly before: readonly Field[];
  readonly filters: readonly Filter[];
  readonly others: readonly Relation[];
  /** ISO 8601; only where the step depends on it. */
  readonly now?: string | undefined;
}

/** Records that are kept, by the name of their version in the columnar engine; its columns are the fields. */
export interface KeptRequest {
  readonly kind: 'kept';
  readonly name: string;
}

export interface Group {
  readonly field: string;
  /** Groups dates and instants by this calendar unit; the group's value is the unit's first day (its instant for hours). */
  readonly unit?: Unit;
  /** Groups dates and instants by what comes round again, whatever the day; the group's value is its number. */
  readonly cycle?: Cycle;
  /** Groups numbers by the range that they are in; the group's value is the range's number. */
  readonly bins?: Bins;
}

/** Whether a group's value is the number of something that its field's values are in. */
export const isNumbered = ({ cycle, bins }: Group): boolean => cycle !== undefined || bins !== undefined;

export interface Order {
  readonly by: string;
  readonly descending?: boolean;
}

/** Of records also by the unit of time that a date or instant is in, so that what comes after sorts the records of one unit. */
export interface RecordOrder extends Order {
  readonly unit?: DayUnit;
}

interface Whole {
  readonly from: Relation;
  readonly where: Filter;
  /** IANA name; days, weeks and months are those of this zone. */
  readonly zone: string;
}

/** Asks for records, a page at a time. Ties are broken by `key`, or where there is none by all that is asked for, so that pages never overlap. */
export interface RecordsPlan extends Whole {
  readonly kind: 'records';
  readonly fields: readonly string[];
  readonly order: readonly RecordOrder[];
  readonly key?: string;
  readonly offset: number;
  readonly limit: number;
}

/**
 * Asks for measures per group; without groups, one record of totals. Columns of the result: the groups in order, then
 * the measures in order.
 */
export interface GroupsPlan extends Whole {
  readonly kind: 'groups';
  readonly by: readonly Group[];
  readonly measures: readonly PlannedMeasure[];
  /** Measures by name, or `group:0`… for a group's own value. Blanks come last both ways. */
  readonly order: readonly Order[];
  readonly limit: number;
  /**
   * Keeps the first `count` values of the first group by the first measure, largest first; with `rest` every other
   * record is one more group, computed from its records. The result then has a leading column: true for the rest.
   */
  readonly top?: { readonly count: number; readonly rest: boolean };
  /**
   * Groups by each of several sets of the groups, by their indices: totals and subtotals, each computed from its records
   * (GROUPING SETS, ISO/IEC 9075-2). The result then has one more leading column, before all others: which set, from 0; sets come
   * one after the other, and a group that a set is without is null in it. With `top` the rest is always there, since totals are of
   * all records.
   */
  readonly sets?: readonly (readonly number[])[];
}

export type Plan = RecordsPlan | GroupsPlan;

/** The most numbers of a plan with sets that anything shows; one more tells that there are more. */
export const mostNumbers = 60_000;

/** All of several filters, leaving out the ones that keep everything. */
export function allOf(filters: readonly (Filter | null | undefined)[]): Filter {
  const kept = filters.filter(
    (filter): filter is Filter => !!filter && !('all' in filter && filter.all.length === 0),
  );
  return kept.length === 1 && kept[0] ? kept[0] : { all: kept };
}

/** One record of measures over all of a relation's records. */
export const totals = (
  from: Relation,
  zone: string,
  measures: readonly PlannedMeasure[],
  where: Filter = { all: [] },
): GroupsPlan => ({ kind: 'groups', from, zone, where, by: [], measures, order: [], limit: 1 });

/** A relation with steps after those it has. */
export const extend = (
  relation: Relation,
  { fields, steps }: { readonly fields: readonly Field[]; readonly steps: readonly PlannedStep[] },
): Relation => ({
  ...relation,
  start: relation.start ?? relation.fields,
  fields,
  steps: [...(relation.steps ?? []), ...steps],
});
