import { type Filter, withinSpan } from '#core/ask/condition/resolve.ts';
import { allOf, type GroupsPlan, type RecordsPlan } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { dayOf, spanOfGroup, unitStart } from '#core/value/period/period.ts';
import type { DayUnit } from '#core/value/period/units.ts';
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

/** What the records of a table stand together by. */
export interface GroupBy {
  readonly field: Pick<Field, 'name' | 'type'>;
  readonly unit?: DayUnit | undefined;
}

/** What a record stands under: a value as it is, or the first day of the unit of time that it is in. */
export function groupValue(value: Cell, { field, unit }: GroupBy, zone: string): Cell {
  if (value === null || unit === undefined) return value;
  const at = new Date(String(value));
  // What is no moment, as infinity is none, stands by itself.
  if (Number.isNaN(at.getTime())) return value;
  return unitStart(field.type === 'instant' ? dayOf(at, zone) : String(value), unit);
}

/** The records of some groups: where they are units of time, of all from the first to the last, which stand side by side. */
function groupsFilter({ field, unit }: GroupBy, values: readonly (string | null)[], zone: string): Filter {
  const by = field.name;
  const starts = values.filter((value) => value !== null).sort();
  const [first, last] = [starts[0], starts.at(-1)];
  if (unit === undefined || first === undefined || last === undefined)
    return { field: by, test: { op: 'is', values: [...values] } };
  const [from, to] = [spanOfGroup(first, unit, zone), spanOfGroup(last, unit, zone)];
  const within = withinSpan(field, { from: from.from, fromDay: from.fromDay, to: to.to, toDay: to.toDay });
  const dated: Filter = { field: by, test: within };
  return values.includes(null) ? { any: [dated, { field: by, test: { op: 'blank' } }] } : dated;
}

/** What to ask for the heads over some records, which stand under these values. */
export function headsPlan(
  group: GroupBy,
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
      where: allOf([where, groupsFilter(group, texts, zone)]),
      by: [{ field: group.field.name, ...(group.unit ? { unit: group.unit } : {}) }],
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
