import { calculationType, type PlannedMeasure } from '#core/ask/measure/calculation.ts';
import { type GroupsPlan, type RecordsPlan, totals } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import { type Cell, isNumeric, isTemporal } from '#core/value/field/value.ts';
import { type Footing, footings } from './footings.ts';
import type { TableColumn } from './schema.ts';

/* What stands below the columns of a table, and what the bars in them are measured by: worked out from all its records. */

/** As it stands before its number. */
export const footingWords: Record<Footing, string> = {
  sum: 'sum',
  average: 'average',
  median: 'median',
  least: 'least',
  greatest: 'greatest',
  distinct: 'different',
};

/** What can stand below a column of a field. */
export const footingsOf = ({ type, states, format }: Pick<Field, 'type' | 'states' | 'format'>): Footing[] =>
  footings.filter(
    (each) =>
      each === 'distinct' ||
      (!states && format?.kind !== 'id' && isNumeric(type)) ||
      (isTemporal(type) && (each === 'least' || each === 'greatest')),
  );

/** A number below a column. */
export interface Foot {
  readonly footing: Footing;
  readonly value: Cell;
  readonly type: Field['type'];
}

/** The least and greatest of a column with bars, as exact texts. */
export interface BarSpan {
  readonly least: Cell;
  readonly greatest: Cell;
}

export interface FootAnswer {
  readonly feet: Readonly<Record<string, Foot>>;
  readonly spans: Readonly<Record<string, BarSpan>>;
}

interface Feet {
  readonly calculations: readonly PlannedMeasure['calculation'][];
  readonly shape: (record: readonly Cell[]) => Readonly<Record<string, Foot>>;
}

/** What stands below columns, and how its numbers are read, in the order of the calculations. */
export function feetOf(columns: readonly TableColumn[], fields: readonly Field[]): Feet {
  const feet = columns.flatMap(({ field: name, foot }) => {
    const field = fields.find((each) => each.name === name);
    return field && foot && footingsOf(field).includes(foot) ? [{ name, kind: foot }] : [];
  });
  return {
    calculations: feet.map(({ name, kind }) => ({ kind, field: name })),
    shape: (record) =>
      Object.fromEntries(
        feet.map(({ name, kind }, at) => [
          name,
          {
            footing: kind,
            value: record[at] ?? null,
            type: calculationType({ kind, field: name }, fields),
          },
        ]),
      ),
  };
}

interface FootPlan {
  readonly plan: GroupsPlan;
  readonly shape: (record: readonly Cell[]) => FootAnswer;
}

/** What to ask for the foot of columns over all records of a list; null where they need nothing. */
export function footPlan(
  columns: readonly TableColumn[],
  fields: readonly Field[],
  { from, zone, where }: RecordsPlan,
): FootPlan | null {
  const fieldOf = (name: string): Field | undefined => fields.find((each) => each.name === name);
  const feet = feetOf(columns, fields);
  const bars = columns.flatMap(({ field: name, bar }) => {
    const field = fieldOf(name);
    return field && bar && isNumeric(field.type) ? [name] : [];
  });
  const calculations: PlannedMeasure['calculation'][] = [
    ...feet.calculations,
    ...bars.flatMap((field) => [
      { kind: 'least' as const, field },
      { kind: 'greatest' as const, field },
    ]),
  ];
  if (calculations.length === 0) return null;
  return {
    plan: totals(
      from,
      zone,
      calculations.map((calculation, at) => ({ name: `foot ${at}`, calculation })),
      where,
    ),
    shape: (record) => ({
      feet: feet.shape(record),
      spans: Object.fromEntries(
        bars.map((name, at) => [
          name,
          {
            least: record[feet.calculations.length + at * 2] ?? null,
            greatest: record[feet.calculations.length + at * 2 + 1] ?? null,
          },
        ]),
      ),
    }),
  };
}

/**
 * Where a bar of a number begins and how long it is, as parts of its cell from the left, 0…1; null where there is nothing to draw.
 * Bars of a column begin at nothing and share one scale over all records, so that they compare from page to page.
 */
export function barOf(cell: Cell, { least, greatest }: BarSpan): { from: number; length: number } | null {
  const value = cell === null ? Number.NaN : Number(cell);
  const low = Math.min(0, Number(least));
  const high = Math.max(0, Number(greatest));
  const room = high - low;
  if (!Number.isFinite(value) || !Number.isFinite(room) || room <= 0 || value === 0) return null;
  return { from: (Math.min(0, value) - low) / room, length: Math.abs(value) / room };
}
