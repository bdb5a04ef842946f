import type { Problem } from '#core/value/problem/problem.ts';
import type { PaneBody } from './kinds.ts';

export type PaneResult =
  | {
      readonly state: 'ready';
      readonly body: PaneBody;
      readonly trueAt: string;
      readonly took: number;
      /** It is good to show, but something of it, such as a total, is still to come. */
      readonly isPartial?: true;
    }
  /** `from`: the titles of the panes in which it can be chosen. */
  | { readonly state: 'waiting'; readonly choose: string; readonly from: readonly string[] }
  | { readonly state: 'failed'; readonly problem: Problem };

/** The name under which the count of the scope travels beside the panes. */
export const scopeCountId = 'scope';
/** The name under which what is known of picked records travels beside the panes. */
export const pickedId = 'picked';
/** The name under which sources that do not answer, and changes that are still to come, travel beside the panes. */
export const delaysId = 'delays';
