import type { Calculation } from '#core/ask/measure/schema.ts';
import type { ChartPane } from './schema.ts';

/** How a chart can be drawn. */
export const chartMarks = ['columns', 'bars', 'line', 'area', 'step', 'dots', 'pie'] as const;
export type ChartMark = (typeof chartMarks)[number];

/** As a sentence says it after "Draw". */
export const markWords: Record<ChartMark, string> = {
  columns: 'columns',
  bars: 'bars',
  line: 'a line',
  area: 'an area',
  step: 'a line in steps',
  dots: 'dots',
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

/** Whether its scale can be logarithmic: nothing is drawn as a length or a surface, which would not compare on one. */
export const canBeLogarithmic = (mark: ChartMark): boolean => mark === 'line' || mark === 'step';

export const isLogarithmic = ({ mark, logarithmic }: ChartPane): boolean =>
  logarithmic === true && canBeLogarithmic(mark);

/** Whether a second measure can stand on it, as a line: where there is one series along an axis that runs to the right. */
export const canHaveSecond = ({ mark, split, each }: ChartPane): boolean =>
  split === undefined && !each && mark !== 'bars' && mark !== 'pie';

/** Whether its numbers can be added up as time goes on: of what can be added up, where there is one series. */
export const canRun = (
  { by, split, each, mark, second }: ChartPane,
  calculation: Calculation | undefined,
): boolean =>
  by.unit !== undefined &&
  split === undefined &&
  !each &&
  second === undefined &&
  mark !== 'pie' &&
  (calculation?.kind === 'count' || calculation?.kind === 'sum');

/** A second measure in a sentence: what dots stand along, else a line over the first. */
export const secondWords = (mark: ChartMark, label: string): string =>
  mark === 'dots' ? `against ${label}` : `with ${label} as a line on a scale of its own`;

/** Whether the period before can stand behind it: along an axis of time that runs to the right, where there is one series. */
export const canHaveBefore = (pane: ChartPane): boolean =>
  pane.by.unit !== undefined && pane.second === undefined && canHaveSecond(pane);
