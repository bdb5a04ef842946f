import type { PaneRecords } from './shared.ts';
import type { PaneUse } from './use.ts';

/** The use of a pane that shows records of one data set, which its brief names. */
export const oneUse =
  <P extends PaneRecords>(use: (pane: P) => Omit<PaneUse, keyof PaneRecords>) =>
  (pane: P): readonly PaneUse[] => {
    const { dataSet, subset, keeping, when, waitsFor } = pane;
    return [{ dataSet, subset, keeping, when, waitsFor, ...use(pane) }];
  };
