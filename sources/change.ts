import type { Change, ChangedRecord, Conflict, LineChange } from '#core/change/change.ts';
import type { ChangeCalls } from '#core/dataset/change/schema.ts';
import type { Column } from '#core/dataset/schema.ts';
import type { Problem } from '#core/value/problem/problem.ts';

/* What kinds of sources that take changes answer. */

/** A table whose records are changed. */
export interface ChangedTable {
  readonly kind: 'one-table';
  readonly schema: string;
  readonly table: string;
  readonly key: Column;
}

/** A service that is told by calls, and the columns of its records. */
export interface ChangedByCalls {
  readonly kind: 'calls';
  readonly calls: ChangeCalls;
  readonly columns: readonly Column[];
  readonly key: Column;
}

export type ChangedPlace = ChangedTable | ChangedByCalls;

/** The table that changes are of, for kinds of sources that have no other place. */
export function tableOf(place: ChangedPlace): ChangedTable {
  if (place.kind === 'one-table') return place;
  throw new TypeError('records of this source are changed in tables');
}

/** Records of another place that come with the one that is added, or go before the one that is removed. */
export interface ChangedLines {
  readonly place: ChangedPlace;
  readonly columns: readonly Column[];
  /** The column that is to hold the key of the record that they come with; null where none comes. */
  readonly refers: Column | null;
  /** What a service calls them within that record. */
  readonly member: string | null;
  readonly changes: readonly LineChange[];
}

/** Changes that are sent as one. */
export interface Changing {
  readonly place: ChangedPlace;
  /** Sent again under this name, they are the same changes. */
  readonly once: string;
  /** The columns that are changed or compared. */
  readonly columns: readonly Column[];
  readonly changes: readonly Change[];
  /** Of one change alone. */
  readonly lines?: ChangedLines | undefined;
  readonly doing: string;
  /**
   * Told before anything is done that cannot be taken back: by what the source knows these changes, and what each record is about to be,
   * its lines after it.
   * Where it throws, none is made.
   */
  readonly beforeEnd: (mark: string, records: readonly ChangedRecord[]) => Promise<void>;
}

/** Changes as they were noted before their end, without lines: what became of those is so for them. */
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
  | { readonly state: 'unknown' }
  /** Each was made by itself, and not all were. */
  | { readonly state: 'each'; readonly each: readonly EachOutcome[] };

/** What became of one of several changes that were sent one by one, in the order in which they were noted. */
export interface EachOutcome {
  readonly record: ChangedRecord;
  readonly outcome: 'done' | 'refused' | 'unknown';
  /** Why it was not made, or is not known to be. */
  readonly problem: Problem | null;
}

export interface ChangeSource {
  /** It makes all changes or none; else each by itself, whatever becomes of the others. */
  readonly together: boolean;
  /** Makes changes. Throws a `ProblemError` where none was made. */
  change(changing: Changing): Promise<ChangeResult>;
  /** Whether changes that were noted were made, record by record; null where it cannot be told yet. */
  outcomes(noted: NotedChanges): Promise<readonly (boolean | null)[]>;
  /** Finds out whether the one who changes can be signed in as, and may change anything. */
  test(): Promise<{ readonly facts: readonly { readonly name: string; readonly value: string }[] }>;
}
