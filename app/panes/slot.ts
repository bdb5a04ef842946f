import type { ComponentType } from 'react';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';

/* The briefs of panes as analysts write them: apart from the views, so that readers do not load them. */

/** A slot of a brief that is being filled. */
export interface SlotProps<P extends Pane> {
  readonly slot: string;
  readonly pane: P;
  readonly dataSets: ReadonlyMap<string, DataSet>;
  /** All panes of the dashboard. */
  readonly panes: readonly Pane[];
  /** What the data sets are called, in the same order. */
  readonly names: ReadonlyMap<string, string>;
  readonly onChange: (pane: P) => void;
  readonly onDone: () => void;
}

/** What a kind of pane adds to the page of its brief. */
export interface PaneBrief<P extends Pane> {
  /** What its own slots can be filled with: only what fits the data. */
  readonly Slot: ComponentType<SlotProps<P>>;
  /** Fields beside the sentence. */
  readonly More?: ComponentType<{
    pane: P;
    dataSets: ReadonlyMap<string, DataSet>;
    onChange: (pane: P) => void;
  }>;
}

/** The fields that a list can show. */
export const offeredColumns = ({ fields }: DataSet): { name: string; label: string }[] =>
  fields
    .filter(({ type }) => type !== 'nested')
    .map((field) => ({ name: field.name, label: labelOf(field) }));
