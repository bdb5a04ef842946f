import type { Filter, FilterTest } from '#core/ask/condition/resolve.ts';
import type { Request } from '#core/dataset/schema.ts';
import type { Relation } from '#core/plan/plan.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { Rejected } from '#engine/columnar/staged.ts';
import type { SegmentWriter } from '#engine/columnar/writer.ts';

/** What is to be fetched of a source, all of it or from where the last time ended. */
export interface Fetch {
  readonly request: Request;
  readonly inputs: Relation['inputs'];
  /** The fields wanted, which are the writer's columns in that order. */
  readonly fields: readonly { readonly name: string; readonly type: FieldType }[];
  /** Only records whose field is at or after a value, or only after it. */
  readonly since?:
    | { readonly field: string; readonly value: string; readonly inclusive: boolean }
    | undefined;
  /** Records that do not pass need not be fetched, where the source can tell; more may come than pass. */
  readonly where?: Filter | undefined;
  /** Where the last fetch ended, as the kind of source said then. */
  readonly position: unknown;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
  /** More records than this are not fetched: it is an error that names the number. */
  readonly most?: number | undefined;
  /** Told of records as they arrive. Throws when the fetch is to be stopped. */
  readonly progress: (records: number) => Promise<void>;
}

export interface FetchResult {
  readonly records: number;
  /** Goes with the version that the records become part of, and comes back as `position`. */
  readonly position?: unknown;
  /** There is more, which the next fetch brings. */
  readonly more?: boolean;
  /** What of it could not be read; asked once the records are written, and told how many those were, where that is known. */
  readonly rejected?: (written: number | null) => Promise<Rejected>;
  /** Calls of a service that were spent. */
  readonly calls?: number;
}

/** What is to be counted at a source. */
export interface CountRequest {
  readonly where: Filter;
  readonly doing: string;
  readonly signal?: AbortSignal | undefined;
}

/** There are more records than may be fetched; says how many that are. */
export class TooManyRecords extends ProblemError {
  constructor(doing: string, most: number) {
    super({
      code: 'too-much',
      doing,
      why: `there are more than ${most.toLocaleString('en-GB')} records, which is as many as are fetched while somebody waits`,
      mend: 'Keep the data set’s records instead, or ask for fewer.',
    });
  }
}

/** Puts the records of a request into a writer, as texts. Throws a `ProblemError`; what is in the writer is then worth nothing. */
export type FetchInto = (writer: SegmentWriter, fetch: Fetch) => Promise<FetchResult>;

export const sinceTest = (since: NonNullable<Fetch['since']>): FilterTest => ({
  op: since.inclusive ? 'atLeast' : 'above',
  value: since.value,
});
