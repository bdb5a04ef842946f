import type { ListColumn, SheetPage } from '#core/dashboard/pane/kind.ts';
import type { RecordsPlan } from '#core/plan/plan.ts';
import type { Cell } from '#core/value/field/value.ts';

/** What is exported: records of a plan under labels, and what they are of. */
export interface Sheet {
  readonly title: string;
  /** The sentence that says what is shown; null where there is none. */
  readonly scope: string | null;
  readonly at: Date;
  readonly zone: string;
  readonly fields: readonly ListColumn[];
  readonly plan: RecordsPlan;
}

/** Hands over all records, some at a time; waits until they are taken. */
export type Stream = (take: (records: Cell[][]) => Promise<void>) => Promise<void>;

/** A format of files. Its name is also the ending of their names. */
export interface ExportFormat {
  /** RFC 6838. */
  readonly media: string;
  /** Writes a whole file, with nothing more in memory than the records that it is given at once. */
  readonly write: (file: string, sheet: Sheet, stream: Stream) => Promise<void>;
  /** Writes a page of numbers as it looks, where the format has heads over several columns, and looks. */
  readonly writePage?: (
    page: SheetPage,
    of: Omit<Sheet, 'fields' | 'plan'>,
  ) => Promise<Uint8Array<ArrayBuffer>>;
}
