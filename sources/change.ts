import type { Change, ChangedRecord, Conflict } from '#core/change/change.ts';
import type { Column } from '#core/dataset/schema.ts';

/* What kinds of sources that take changes answer. */

/** Where records are changed. */
export interface ChangedPlace {
  readonly schema: string;
  readonly table: string;
  readonly key: Column;
}

/** Changes that are made together: all of them or none. */
export interface Changing extends ChangedPlace {
  /** The columns that are changed or compared. */
  readonly columns: readonly Column[];
  readonly changes: readonly Change[];
  readonly doing: string;
  /**
   * Told once all is done at the source and can still be taken back: by what the source knows these changes, and what became of each
   * record. They are made for good only after it; where it throws, none is.
   */
  readonly beforeEnd: (mark: string, records: readonly ChangedRecord[]) => Promise<void>;
}

/** Changes as they were noted before their end. */
export interface NotedChanges {
  readonly mark: string;
  readonly place: ChangedPlace;
  readonly columns: readonly Column[];
  readonly records: readonly ChangedRecord[];
}

export type ChangeResult =
  | { readonly state: 'done'; readonly records: readonly ChangedRecord[] }
  /** Some records are not as they were seen; nothing was changed. */
  | { readonly state: 'conflict'; readonly conflicts: readonly Conflict[] }
  /** The connection was lost at the end, and the source cannot say yet. */
  | { readonly state: 'unknown' };

export interface ChangeSource {
  /** Makes changes. Throws a `ProblemError` where none was made. */
  change(changing: Changing): Promise<ChangeResult>;
  /** What became of changes that were about to end; null where it cannot be told yet. */
  wasMade(noted: NotedChanges): Promise<boolean | null>;
  /** Finds out whether the one who changes can be signed in as, and may change anything. */
  test(): Promise<{ readonly facts: readonly { readonly name: string; readonly value: string }[] }>;
}
