import { canStack, isLine } from '#core/dashboard/pane/kinds/chart/marks.ts';
import type { ChartPane } from '#core/dashboard/pane/kinds/chart/schema.ts';
import type { ChartData } from '#core/dashboard/pane/kinds/chart/shape.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { Drawn } from './neighbours.ts';

/* Which numbers charts draw. */

const finite = (values: readonly Cell[]): number[] =>
  values.flatMap((value) => (value === null || !Number.isFinite(Number(value)) ? [] : [Number(value)]));

/** All numbers of charts, and what stands besides. */
export const numbersOf = (charts: readonly ChartData[], besides: readonly Cell[]): number[] => [
  ...finite(besides),
  ...charts.flatMap(({ series }) => series.flatMap(({ values }) => finite(values))),
];

/** The least and greatest that charts draw and what stands behind them, from nothing on but where lines need not begin at it. */
export function drawnBy(charts: readonly ChartData[], pane: ChartPane, besides: readonly Cell[]): Drawn {
  const isStacked = canStack(pane.mark) && (pane.stack ?? 'stacked') === 'stacked';
  const sums = (data: ChartData): number[] =>
    data.categories.map((_, at) =>
      data.series.reduce((sum, { values }) => sum + (Number(values[at]) || 0), 0),
    );
  const drawn = isStacked ? [...finite(besides), ...charts.flatMap(sums)] : numbersOf(charts, besides);
  const least = Math.min(...drawn);
  return {
    least: isLine(pane.mark) && !isStacked ? least : Math.min(0, least),
    greatest: Math.max(...drawn),
  };
}
