import type { Test } from '#core/ask/condition/schema.ts';
import type { PaneView, ViewParts } from '#core/dashboard/pane/view.ts';
import type { FieldType } from '#core/value/field/types.ts';
import type { Unit } from '#core/value/period/units.ts';

/** A field of a data set on this dashboard, the data set by its short name (see `shortNames`). */
export interface FieldPath {
  readonly dataSet: string;
  readonly field: string;
}

/** A test in one of the reader's own groups. */
export interface OwnTest extends FieldPath {
  readonly test: Test;
}

/** Holds when all of its tests do. */
export type OwnPart = readonly OwnTest[];
/** Holds when any of its parts does. */
export type OwnGroup = readonly OwnPart[];

/**
 * What a reader has picked in a pane: a record (its key), a category, or a period. It is named by data set and field, not
 * by the pane it was picked in, so it means the same after the page has changed.
 */
export interface Focus extends FieldPath {
  readonly unit?: Unit;
  /** Canonical text; null is blank. */
  readonly value: string | null;
}

/** What a dashboard is showing now, as its address says. */
export interface Scope {
  /** By clause name; a clause that is absent has its initial test, one that is null was taken off by the reader. */
  readonly clauses: Readonly<Record<string, Test | null>>;
  /** The reader's own: every group must hold. Any condition can be said so, however it is nested. */
  readonly own: readonly OwnGroup[];
  readonly focus: readonly Focus[];
  /** How panes are looked at, by pane id. */
  readonly views: Readonly<Record<string, PaneView>>;
}

export const emptyScope: Scope = { clauses: {}, own: [], focus: [], views: {} };

/** What an address may speak of on one dashboard. Plain data: the server works it out, the page reads addresses by it. */
export interface Vocabulary {
  readonly clauses: readonly { name: string; type: FieldType }[];
  readonly dataSets: Readonly<
    Record<
      string,
      {
        readonly fields: readonly { name: string; type: FieldType }[];
        readonly key?: string;
        /** The picks that decide which of its records are shown, as `dataSet.field`. */
        readonly follows: readonly string[];
      }
    >
  >;
  /** What can be chosen of how a pane is looked at, by pane id. */
  readonly views: Readonly<Record<string, ViewParts>>;
}

export const pathText = ({ dataSet, field }: FieldPath): string => `${dataSet}.${field}`;
