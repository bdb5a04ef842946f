import Big from 'big.js';
import type { GroupsPlan } from '#core/plan/plan.ts';
import { binNumbers } from '#core/value/bins/bins.ts';
import type { Field } from '#core/value/field/field.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Span } from '#core/value/period/period.ts';
import { cycleNumbers } from '#core/value/period/units.ts';
import { compareValues, hasBegun, partOf, unitsShown, withoutRecords } from '../../group-values.ts';
import type { ChartPane } from './schema.ts';

/** The most categories, and points in time, that a chart asks for. */
export const mostGroups = 2000;

export interface ChartCategory {
  readonly value: Cell;
  readonly rest?: boolean;
  /** A unit of time that is not over yet, or that what is shown covers only in part. */
  readonly partial?: 'so far' | 'in part';
}

export interface ChartData {
  readonly categories: readonly ChartCategory[];
  /** One series without a value where nothing splits the chart. */
  readonly series: readonly { value?: Cell; values: readonly Cell[] }[];
  /** The values of the second measure. */
  readonly second?: readonly Cell[];
  /** More categories than a chart can hold were left out. */
  readonly truncated: boolean;
}

/**
 * Lays a grouped result out as series over categories. Periods in which nothing happened appear: as zero for counts and
 * sums, as blank for what has no value without records.
 */
export function shapeChart(
  pane: ChartPane,
  plan: GroupsPlan,
  records: readonly (readonly Cell[])[],
  span: Span | null,
  {
    states = {},
    now = null,
    all = records,
  }: {
    states?: { readonly by?: Field['states']; readonly split?: Field['states'] };
    /** The moment of asking. */
    now?: Date | null;
    /** Records whose categories and series it has, though it has values only of its own. */
    all?: readonly (readonly Cell[])[];
  } = {},
): ChartData {
  const { unit } = pane.by;
  const lead = plan.top ? 1 : 0;
  const kept = records.slice(0, mostGroups);
  const axis = all === records ? kept : all;
  const splitAt = pane.split === undefined ? -1 : lead + 1;
  const valueAt = lead + plan.by.length;
  const keyOf = (record: readonly Cell[]): string => JSON.stringify([lead ? record[0] : false, record[lead]]);
  const categories = new Map<string, { value: Cell; rest?: boolean }>();
  for (const start of unit
    ? unitsShown(
        axis.map((record) => record[lead]),
        unit,
        { span, zone: plan.zone, most: mostGroups },
      )
    : [])
    categories.set(JSON.stringify([false, start]), { value: start });
  // What comes round again has all its places, in their order unless the numbers say another.
  for (const number of pane.by.cycle && pane.order === 'label' ? cycleNumbers[pane.by.cycle] : [])
    categories.set(JSON.stringify([false, String(number)]), { value: String(number) });
  const { bins } = plan.by[0] ?? {};
  for (const number of bins && axis.length > 0 ? binNumbers(bins) : [])
    categories.set(JSON.stringify([false, String(number)]), { value: String(number) });
  for (const record of axis)
    categories.set(keyOf(record), {
      value: record[lead] ?? null,
      ...(lead && record[0] === true ? { rest: true } : {}),
    });
  const series = new Map<string, { value?: Cell; values: Map<string, Cell> }>();
  if (splitAt < 0) series.set('', { values: new Map() });
  const seriesOf = (record: readonly Cell[]) => {
    const split = splitAt < 0 ? undefined : (record[splitAt] ?? null);
    const key = split === undefined ? '' : JSON.stringify(split);
    const one = series.get(key) ?? { ...(split === undefined ? {} : { value: split }), values: new Map() };
    series.set(key, one);
    return one;
  };
  for (const record of axis) seriesOf(record);
  const second = new Map<string, Cell>();
  for (const record of kept) {
    seriesOf(record).values.set(keyOf(record), record[valueAt] ?? null);
    second.set(keyOf(record), record[valueAt + 1] ?? null);
  }
  const [nothing, nothingSecond] = plan.measures.map(withoutRecords);
  const ordered = [...series.values()].sort((a, b) => compareValues(a.value, b.value, states.split));
  const placed =
    pane.order === 'label' && states.by?.length && !unit
      ? [...categories.entries()].sort(([, a], [, b]) =>
          a.rest || b.rest
            ? Number(a.rest ?? false) - Number(b.rest ?? false)
            : compareValues(a.value, b.value, states.by),
        )
      : [...categories.entries()];
  const keys = placed.map(([key]) => key);
  const begun = placed.filter(
    ([, { value }]) => !now || !unit || hasBegun(value, unit, { now, zone: plan.zone }),
  ).length;
  const laidOut = (values: readonly Cell[]): readonly Cell[] =>
    pane.running ? addedUp(values, begun) : values;
  return {
    categories: placed.map(([, category]) => {
      const partial = unit ? partOf(category.value, unit, { span, now, zone: plan.zone }) : null;
      return partial ? { ...category, partial } : category;
    }),
    series: ordered.map(({ value, values }) => ({
      ...(value === undefined ? {} : { value }),
      // Of records there may be a blank number; of none there is what a measure is of none.
      values: laidOut(keys.map((key) => (values.has(key) ? values.get(key) : nothing) ?? null)),
    })),
    ...(plan.measures.length > 1
      ? { second: keys.map((key) => (second.has(key) ? second.get(key) : nothingSecond) ?? null) }
      : {}),
    truncated: records.length > mostGroups,
  };
}

/** Each value with all before it, exactly; blank where time has not come yet. */
function addedUp(values: readonly Cell[], begun: number): Cell[] {
  let sum = new Big(0);
  return values.map((value, at) => {
    if (at >= begun) return null;
    if (value !== null) sum = sum.plus(String(value));
    return sum.toFixed();
  });
}

/** The same chart for one value of a field. */
export interface ChartOfOne {
  readonly value: Cell;
  /** It is of all the values that have no chart of their own. */
  readonly rest?: true;
  readonly data: ChartData;
}

/**
 * Lays a result out as one chart for each value of its first group, all with the same categories and series, in the order of the
 * values or that of their sizes, the rest last; and as what they share, which has no values.
 */
export function shapeCharts(
  pane: ChartPane,
  plan: GroupsPlan,
  records: readonly (readonly Cell[])[],
  span: Span | null,
  {
    states,
    now,
    order,
    sizes = [],
  }: {
    readonly states: { readonly by?: Field['states']; readonly split?: Field['states'] };
    readonly now: Date;
    /** The states of the field whose values the charts are for. */
    readonly order: Field['states'];
    /** The values in the order in which their charts stand, where that is not their own. */
    readonly sizes?: readonly (readonly Cell[])[] | undefined;
  },
): { readonly shared: ChartData; readonly charts: readonly ChartOfOne[] } {
  const at = plan.top ? 1 : 0;
  const inner = { ...plan, by: plan.by.slice(1), top: undefined };
  const whole = { ...pane, each: undefined, top: undefined };
  const parts = new Map<string, { value: Cell; isRest: boolean; records: (readonly Cell[])[] }>();
  const all: (readonly Cell[])[] = [];
  for (const record of records) {
    const value = record[at] ?? null;
    const isRest = plan.top !== undefined && record[0] === true;
    const own = record.slice(at + 1);
    const key = JSON.stringify([isRest, value]);
    const part = parts.get(key) ?? { value, isRest, records: [] };
    part.records.push(own);
    all.push(own);
    parts.set(key, part);
  }
  const shape = (own: readonly (readonly Cell[])[]): ChartData =>
    shapeChart(whole, inner, own, span, { states, now, all });
  const places = new Map(sizes.map(([value = null], place) => [JSON.stringify(value), place]));
  const placeOf = ({ value }: { value: Cell }): number => places.get(JSON.stringify(value)) ?? places.size;
  return {
    shared: shape([]),
    charts: [...parts.values()]
      .sort(
        (a, b) =>
          Number(a.isRest) - Number(b.isRest) ||
          placeOf(a) - placeOf(b) ||
          compareValues(a.value, b.value, order),
      )
      .map(({ value, isRest, records: own }) => ({
        value,
        ...(isRest ? { rest: true as const } : {}),
        data: shape(own),
      })),
  };
}
