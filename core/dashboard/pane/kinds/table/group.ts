import { allOf, type GroupsPlan, type RecordsPlan } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { type Foot, feetOf } from './foot.ts';
import type { TableColumn } from './schema.ts';

/* The records of a table under heads: those of one value of a field together, with numbers of all of them. */

/** All records of the table that have a value, whatever page they are on. */
export interface GroupHead {
  readonly value: Cell;
  /** How many there are, as exact text. */
  readonly count: string;
  readonly feet: Readonly<Record<string, Foot>>;
}

/** A name for a value, as an address holds which groups are closed. */
export const groupName = (value: Cell): string => (value === null ? 'blank' : `is ${String(value)}`);

interface HeadsPlan {
  readonly plan: GroupsPlan;
  readonly shape: (records: readonly (readonly Cell[])[]) => GroupHead[];
}

/** What to ask for the heads over some records, of which these are the values of the field. */
export function headsPlan(
  by: string,
  values: readonly Cell[],
  columns: readonly TableColumn[],
  fields: readonly Field[],
  { from, zone, where }: RecordsPlan,
): HeadsPlan {
  const feet = feetOf(columns, fields);
  const texts = [...new Set(values.map((value) => (value === null ? null : String(value))))];
  return {
    plan: {
      kind: 'groups',
      from,
      zone,
      where: allOf([where, { field: by, test: { op: 'is', values: texts } }]),
      by: [{ field: by }],
      measures: [
        { name: 'count', calculation: { kind: 'count' } },
        ...feet.calculations.map((calculation, at) => ({ name: `foot ${at}`, calculation })),
      ],
      order: [],
      // What differs only in capitals passes the same condition.
      limit: 4 * texts.length,
    },
    shape: (records) =>
      records.map(([value = null, count = null, ...rest]) => ({
        value,
        count: String(count ?? 0),
        feet: feet.shape(rest),
      })),
  };
}
