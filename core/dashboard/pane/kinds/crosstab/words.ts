import type { CellWay } from './schema.ts';

/** How its numbers are written, in words. */
export const cellWords: Readonly<Record<CellWay, string>> = {
  value: 'as they are',
  'row share': 'as shares of their row',
  'column share': 'as shares of their column',
  'whole share': 'as shares of the whole',
  difference: 'as the difference from the column before',
};
