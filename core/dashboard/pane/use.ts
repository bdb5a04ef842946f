import type { DataSet } from '#core/dataset/schema.ts';
import type { Unit } from '#core/value/period/units.ts';
import type { PaneRecords } from './shared.ts';

/* What of which records panes show something of: all that lets their wiring be worked out, and what lets no data be asked for. */

/** Records that a pane shows something of: which, what of them, and how they follow the reader. */
export interface PaneUse extends PaneRecords {
  /** `scope`: narrowed by what a reader chooses. `picks`: the record that is picked, whatever the scope. */
  readonly follows: 'scope' | 'picks';
  /**
   * It shows what is of one case: the meaning of that, and the field that says it. The case is what is picked, or typed in the pane;
   * nothing else that a reader chooses reaches it.
   */
  readonly about?: { readonly meaning: string; readonly field: string } | undefined;
  /** The fields that it names, beside those of its conditions; and the measures. */
  readonly fields: readonly string[];
  readonly measures: readonly string[];
  /** The fields that it shows by itself. */
  readonly shows: (dataSet: DataSet) => readonly string[];
  /** It shows numbers of them, and what is behind those can be opened. */
  readonly hasNumbers: boolean;
  /** The fields of the records that it lists, each of which can be picked. */
  readonly lists?: readonly string[] | undefined;
  /** What readers may do to them here, of what the data set lets them (see `doingShape`). */
  readonly actions?: readonly string[] | undefined;
  readonly inPlace?: readonly string[] | undefined;
  /** The unit of time that they are divided by. */
  readonly unit?: Unit | undefined;
  /** A pick of a field, or of a unit of it, shows in it which part was picked, and keeps the others in view. */
  readonly marks?: ((field: string, unit: Unit | undefined) => boolean) | undefined;
}
