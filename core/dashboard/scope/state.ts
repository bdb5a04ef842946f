import type { Test } from '#core/ask/condition/schema.ts';
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

/**
 * What a reader has picked in a pane: a record (its key), a category, or a period. It is named by data set and field, not
 * by the pane it was picked in, so it means the same after the page has changed.
 */
export interface Focus extends FieldPath {
  readonly unit?: Unit;
  /** Canonical text; null is blank. */
  readonly value: string | null;
}

export interface TableView {
  /** From 1. */
  readonly page?: number;
  readonly order?: readonly { by: string; descending?: boolean }[];
  readonly search?: string;
  /** The fields shown, in order; absent: as the brief has them. */
  readonly columns?: readonly string[] | undefined;
}

/** What a dashboard is showing now, as its address says. */
export interface Scope {
  /** By clause name; a clause that is absent has its initial test, one that is null was taken off by the reader. */
  readonly clauses: Readonly<Record<string, Test | null>>;
  /** The reader's own: every group must hold; a group holds when any of its tests does. */
  readonly own: readonly (readonly OwnTest[])[];
  readonly focus: readonly Focus[];
  /** By pane id. */
  readonly tables: Readonly<Record<string, TableView>>;
}

export const emptyScope: Scope = { clauses: {}, own: [], focus: [], tables: {} };

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
  /** The tables, each with the fields that it shows. */
  readonly tables: readonly { readonly id: string; readonly fields: readonly string[] }[];
}

export const pathText = ({ dataSet, field }: FieldPath): string => `${dataSet}.${field}`;
