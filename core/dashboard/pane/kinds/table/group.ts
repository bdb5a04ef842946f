import { type Filter, withinSpan } from '#core/ask/condition/resolve.ts';
import { allOf, type GroupsPlan, type RecordsPlan } from '#core/plan/plan.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import { dayOf, spanOfGroup, unitStart } from '#core/value/period/period.ts';
import type { DayUnit } from '#core/value/period/units.ts';
import { type Foot, feetOf } from './foot.ts';
import type { TableColumn } from './schema.ts';

/* The records of a table under heads: those of one value of a field together, with numbers of all of them. */

/** All records of the table that stand under a head, whatever page they are on. */
export interface GroupHead {
  /** Of the groups that it stands under, and its own. */
  readonly values: readonly Cell[];
  /** How many there are, as exact text. */
  readonly count: string;
  readonly feet: Readonly<Record<string, Foot>>;
}

const valueName = (value: Cell): string => (value === null ? 'blank' : `is ${String(value)}`);

/** A name for what stands under these values, as an address holds which groups are closed. */
export const groupName = (values: readonly Cell[]): string =>
  values.map((value) => valueName(value).replace(/[\\|]/g, '\\$&')).join('|');

/** Whether a group around what stands under these values is among those that are closed. */
export const isWithin = (closed: ReadonlySet<string>, values: readonly Cell[]): boolean =>
  values.slice(1).some((_, level) => closed.has(groupName(values.slice(0, level + 1))));

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

/** The records that stand under some values of one group after the other. */
function pathsFilter(
  [group, ...inner]: readonly GroupBy[],
  paths: readonly (readonly (string | null)[])[],
  zone: string,
): Filter {
  const under = new Map<string | null, (string | null)[][]>();
  for (const [value = null, ...rest] of paths) under.set(value, [...(under.get(value) ?? []), rest]);
  if (!group) return allOf([]);
  if (inner.length === 0) return groupsFilter(group, [...under.keys()], zone);
  const each = [...under].map(([value, rest]) =>
    allOf([groupsFilter(group, [value], zone), pathsFilter(inner, rest, zone)]),
  );
  return { any: each };
}

const pathText = (path: readonly Cell[]): (string | null)[] =>
  path.map((value) => (value === null ? null : String(value)));

/** What to ask for the heads of the innermost of some groups, over some records that stand under these values of them. */
export function headsPlan(
  groups: readonly GroupBy[],
  paths: readonly (readonly Cell[])[],
  columns: readonly TableColumn[],
  fields: readonly Field[],
  { from, zone, where }: RecordsPlan,
): HeadsPlan {
  const feet = feetOf(columns, fields);
  const inView = [...new Map(paths.map((path) => [groupName(path), pathText(path)])).values()];
  return {
    plan: {
      kind: 'groups',
      from,
      zone,
      where: allOf([where, pathsFilter(groups, inView, zone)]),
      by: groups.map(({ field, unit }) => ({ field: field.name, ...(unit ? { unit } : {}) })),
      measures: [
        { name: 'count', calculation: { kind: 'count' } },
        ...feet.calculations.map((calculation, at) => ({ name: `foot ${at}`, calculation })),
      ],
      order: [],
      // What differs only in capitals passes the same condition.
      limit: 4 * inView.length,
    },
    shape: (records) =>
      records.map((record) => {
        const [count = null, ...rest] = record.slice(groups.length);
        return { values: record.slice(0, groups.length), count: String(count ?? 0), feet: feet.shape(rest) };
      }),
  };
}
