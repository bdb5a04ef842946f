import type { FileReading, RejectedRecord } from '#core/dataset/upload.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { ProblemError } from '#core/value/problem/problem.ts';
import type { FoundList } from './json-lists.ts';

/** How many records could not be read, and the first of them. */
export interface Rejected {
  readonly count: number;
  readonly examples: readonly RejectedRecord[];
}

/** How a file was staged. */
export interface StagedFile {
  readonly reading: FileReading;
  /** The lists of records that a JSON document holds, the longest first. */
  readonly lists?: readonly FoundList[];
  /** The types that the file itself says. */
  readonly types?: ReadonlyMap<string, FieldType>;
  /** Fields of JSON whose values are written as texts, in the first records or in all: what looks like a number there is none. */
  readonly quoted?: (among: 'first' | 'all') => Promise<ReadonlySet<string>>;
  /** What could not be read; known once all records have been gone through. */
  readonly rejected: () => Promise<Rejected>;
}

/** Works on a file as its first records have it, while all of them are gone through. */
export type Meanwhile<T> = (staged: StagedFile) => Promise<T>;

/** A line or JSON record longer than this is refused, so that one record cannot take all memory. */
export const longestRecord = 4 * 1024 * 1024;
export const mostExamples = 20;

export const unreadable = (why: string, mend: string): ProblemError =>
  new ProblemError({ code: 'bad-request', doing: 'reading the file', why, mend });
