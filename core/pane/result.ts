import type { Cell } from '#core/field/value.ts';
import type { Unit } from '#core/period/units.ts';
import type { Problem } from '#core/problem/problem.ts';
import type { ChartData, ShownField, ShownMeasure } from './shape.ts';

/** What a pane has to show; plain data that crosses to the page. */
export type PaneBody = CardBody | ChartBody | TableBody | DetailBody;

export interface CardBody {
  readonly kind: 'card';
  readonly measure: ShownMeasure;
  readonly now: Cell;
  /** Absent where there is nothing to compare with. */
  readonly before?: Cell;
  readonly nowWords?: string;
  /** The period compared with, as a sentence says it after "than": "26 Nov", "by 15:53 on 26 Nov". */
  readonly beforeWords?: string;
}

export interface ChartBody {
  readonly kind: 'chart';
  readonly measure: ShownMeasure;
  readonly by: ShownField & { unit?: Unit };
  readonly split?: ShownField;
  readonly data: ChartData;
  readonly noun: string;
  readonly loosen?: readonly Loosen[];
}

export interface TableBody {
  readonly kind: 'table';
  /** In the order of the cells of a record. */
  readonly fields: readonly ShownField[];
  readonly records: readonly (readonly Cell[])[];
  /** Exact text; null while it is still being counted. */
  readonly total: string | null;
  /** From 1. */
  readonly page: number;
  readonly noun: { readonly one: string; readonly many: string };
  readonly loosen?: readonly Loosen[];
}

export interface DetailBody {
  readonly kind: 'detail';
  readonly fields: readonly ShownField[];
  /** Null: there is no such record (any more). */
  readonly record: readonly Cell[] | null;
  readonly title: string | null;
  readonly noun: { readonly one: string; readonly many: string };
}

/** A clause whose loosening would give records again. */
export interface Loosen {
  readonly name?: string;
  readonly words: string;
  readonly count: string;
}

export type PaneResult =
  | { readonly state: 'ready'; readonly body: PaneBody; readonly trueAt: string; readonly took: number }
  /** `from`: the titles of the panes in which it can be chosen. */
  | { readonly state: 'waiting'; readonly choose: string; readonly from: readonly string[] }
  | { readonly state: 'failed'; readonly problem: Problem };

/** The name under which the count of the scope travels beside the panes. */
export const scopeCountId = 'scope';
/** The name under which what is known of picked records travels beside the panes. */
export const pickedId = 'picked';
/** The name under which the sources that do not answer travel beside the panes. */
export const outagesId = 'outages';
