/** How a chart can be drawn. */
export const chartMarks = ['columns', 'bars', 'line', 'area', 'step', 'pie'] as const;
export type ChartMark = (typeof chartMarks)[number];

/** As a sentence says it after "Draw". */
export const markWords: Record<ChartMark, string> = {
  columns: 'columns',
  bars: 'bars',
  line: 'a line',
  area: 'an area',
  step: 'a line in steps',
  pie: 'a pie',
};

/** How the parts of what is split stand: on each other, beside each other, or each as its share of the whole. */
export const stackings = ['stacked', 'beside', 'whole'] as const;
export type Stacking = (typeof stackings)[number];
export const stackingWords: Record<Stacking, string> = {
  stacked: 'on top of each other',
  beside: 'beside each other',
  whole: 'as shares of the whole',
};

/** The marks whose parts can stand in more than one way. */
export const canStack = (mark: ChartMark): boolean =>
  mark === 'columns' || mark === 'bars' || mark === 'area';

/** The marks that are lines. */
export const isLine = (mark: ChartMark): boolean => mark === 'line' || mark === 'area' || mark === 'step';
