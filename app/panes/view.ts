import type { ComponentType, ReactNode } from 'react';
import type { Offers } from '#core/change/offers.ts';
import type { FormRecord } from '#core/dashboard/pane/kinds/form/kind.ts';
import type { PaneBody } from '#core/dashboard/pane/kinds.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { PaneView } from '#core/dashboard/pane/view.ts';
import type { Bins } from '#core/value/bins/schema.ts';
import type { Cell } from '#core/value/field/value.ts';
import type { ReadBy } from '#core/value/format/format.ts';
import type { Unit } from '#core/value/period/units.ts';

/* What a pane's view is given, and what it may do. It knows neither the desk nor the address. */

/** A record, a category or a period of a data set that a pane uses. */
export interface Part {
  readonly dataSet: string;
  readonly field: string;
  readonly unit?: Unit;
  /** Canonical text; null is blank. */
  readonly value: string | null;
}

/** What is opened from a pane: the records behind a number, or a record. */
export type DrillTarget =
  | {
      readonly kind: 'behind';
      readonly title: string;
      readonly values: readonly Cell[];
      /** Of which groups the values are, by their indices; of the first ones where this is absent. */
      readonly of?: readonly number[];
      /** Which of its measures, from 0. */
      readonly measure?: number;
      readonly restOf?: readonly Cell[];
      /** The ranges that its numbers are counted in. */
      readonly bins?: Bins;
    }
  | { readonly kind: 'record'; readonly title: string; readonly key: string };

/** What somebody has pasted into a pane. */
export interface PasteStart {
  readonly text: string;
  /** The records and fields from the cell that has the keyboard on; absent: the text has heads. */
  readonly onto?: { readonly keys: readonly string[]; readonly fields: readonly string[] };
}

export interface PaneActions {
  /** Picks a part, or all the parts that a mark stands for; the same again takes them back. */
  pick(parts: readonly Part[]): void;
  open(target: DrillTarget): void;
  /** Where {@link open} leads, as an address. */
  hrefOf(target: DrillTarget): string;
  /** Looks at it in another order, at another page, and so on: replaces parts of its view. */
  look(parts: PaneView): void;
  /** Takes off a reader filter. */
  loosen(clause: string): void;
  /** Asks what an action of the pane would do to some of its records, or to all that it shows; whoever agrees then does it. */
  act(action: string, keys: readonly string[] | 'all', onDone?: () => void): void;
  /** The form of an action of the pane: of one that changes a record with that record, of one that adds one with null. */
  form(action: string, record: FormRecord | null): ReactNode;
  /** Asks what rows of a spreadsheet would change of its records; whoever agrees then changes them. */
  paste(start: PasteStart | null): void;
  /** Changes one field of a record that stood so; says why not, or null once it is done. */
  change(key: string, field: string, saw: string | null, value: string | null): Promise<string | null>;
}

export interface PaneViewProps<P extends Pane, B extends PaneBody> {
  readonly pane: P;
  readonly body: B;
  readonly clock: ReadBy;
  /** How the reader looks at it now. */
  readonly view: PaneView;
  /** The fields that identify and name a record of a data set. */
  readonly recordOf: (dataSet: string) => {
    readonly key?: string | undefined;
    readonly title?: string | undefined;
  };
  readonly isPicked: (part: Part) => boolean;
  /** What can be done to its records; null where that is nothing. */
  readonly offers: Offers | null;
  readonly actions: PaneActions;
  /** The address of its records as a file of a format. */
  readonly fileOf: (format: string) => string;
  readonly asTable: boolean;
  /** It stands in a record that was opened, and is of that one. */
  readonly inRecord?: true;
}

/** How a kind of pane looks. */
export interface PaneLook<P extends Pane, B extends PaneBody> {
  readonly View: ComponentType<PaneViewProps<P, B>>;
  /** It can be shown as a table as well. */
  readonly hasTwin: boolean;
  /** How much of its place it takes: all, as much as it has to show, or so little that two can stand side by side. */
  readonly fills: 'all' | 'some' | 'little';
}
